import { useQuery } from "@tanstack/react-query";
import { useEffect, type ComponentType } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { SIGNED_OUT } from "./api/client";
import { catalogueQuery, sessionQuery } from "./api/queries";
import { SessionProvider } from "./api/session";
import { Notices } from "./design/Notices";
import { SignIn } from "./places/SignIn";
import { Boundary } from "./shell/Boundary";
import { Failed, Loading } from "./shell/States";
import { Frame } from "./shell/Frame";
import { later } from "./design/later";

const place = (fetch: () => Promise<ComponentType>) => later(fetch, () => <Loading />);
const Reviews = place(() => import("./places/Reviews").then((m) => m.Reviews));
const Review = place(() => import("./places/Review").then((m) => m.Review));
const Systems = place(() => import("./places/Systems").then((m) => m.Systems));
const System = place(() => import("./places/System").then((m) => m.System));
const DocketPage = place(() => import("./places/DocketPage").then((m) => m.DocketPage));
const HandPage = place(() => import("./places/HandPage").then((m) => m.HandPage));
const RunningPage = place(() => import("./places/RunningPage").then((m) => m.RunningPage));
const Shelf = place(() => import("./places/Shelf").then((m) => m.Shelf));
const Account = place(() => import("./places/Account").then((m) => m.Account));
const People = place(() => import("./places/People").then((m) => m.People));
const Installation = place(() => import("./places/Installation").then((m) => m.Installation));
const Welcome = place(() => import("./places/Welcome").then((m) => m.Welcome));
const Begin = place(() => import("./places/Begin").then((m) => m.Begin));
const Help = place(() => import("./places/Help").then((m) => m.Help));
const First = place(() => import("./places/First").then((m) => m.First));
const Inbox = place(() => import("./places/Inbox").then((m) => m.Inbox));
const Workloads = place(() => import("./places/Workloads").then((m) => m.Workloads));
const FollowUps = place(() => import("./places/FollowUps").then((m) => m.FollowUps));
const Standings = place(() => import("./places/Standings").then((m) => m.Standings));
const CapturesPage = place(() => import("./places/CapturesPage").then((m) => m.CapturesPage));

export function App() {
  return (
    <Notices>
      <Routes>
        <Route path="/records/:slug/captures" element={<CapturesPage />} />
        <Route path="/welcome" element={<Welcome />} />
        <Route path="/begin" element={<Begin />} />
        <Route path="*" element={<Inside />} />
      </Routes>
    </Notices>
  );
}

/** Everything that needs somebody signed in. */
function Inside() {
  const session = useQuery(sessionQuery);
  const location = useLocation();
  const { refetch } = session;
  const inside = session.data?.signed_in ?? false;
  useEffect(() => {
    if (!inside) return undefined;
    const look = () => void refetch();
    window.addEventListener(SIGNED_OUT, look);
    return () => window.removeEventListener(SIGNED_OUT, look);
  }, [inside, refetch]);
  // Forms choose among these words: one that is open before they are read would choose another than what is kept.
  const words = useQuery({ ...catalogueQuery, enabled: inside });
  if (session.isPending || (inside && words.isPending)) return <Loading />;
  if (inside && words.isError) return <Failed error={words.error} again={() => void words.refetch()} />;
  if (session.isError) return <Failed error={session.error} again={() => void session.refetch()} />;
  if (!session.data.signed_in) return <SignIn from={location.pathname + location.search} />;
  return (
    <SessionProvider session={session.data}>
      <Frame>
        <Boundary place={location.pathname}>
          <Routes>
            <Route path="/" element={<Navigate to="/reviews" replace />} />
            <Route path="/reviews" element={<Reviews />} />
            <Route path="/reviews/:review/:sheet?" element={<Review />} />
            <Route path="/help/*" element={<Help />} />
            <Route path="/first" element={<First />} />
            <Route path="/systems" element={<Systems />} />
            <Route path="/systems/:system" element={<System />} />
            <Route path="/systems/:system/docket" element={<DocketPage />} />
            <Route path="/hand/:entry" element={<HandPage />} />
            <Route path="/running/:entry" element={<RunningPage />} />
            <Route path="/account" element={<Account />} />
            <Route path="/people" element={<People />} />
            <Route path="/installation" element={<Installation />} />
            <Route path="/inbox" element={<Inbox />} />
            <Route path="/shelf" element={<Shelf />} />
            <Route path="/workloads" element={<Workloads />} />
            <Route path="/follow-ups" element={<FollowUps />} />
            <Route path="/standings" element={<Standings />} />
            <Route path="*" element={<Nowhere />} />
          </Routes>
        </Boundary>
      </Frame>
    </SessionProvider>
  );
}

function Nowhere() {
  return (
    <main className="p-8">
      <h1 className="font-serif text-title">There is no such place.</h1>
      <p className="mt-2">
        The address may be mistyped.{" "}
        <a href="/reviews" className="underline">
          Go to the reviews
        </a>
        .
      </p>
    </main>
  );
}
