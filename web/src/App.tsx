import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { SIGNED_OUT } from "./api/client";
import { catalogueQuery, sessionQuery } from "./api/queries";
import { SessionProvider } from "./api/session";
import { Notices } from "./design/Notices";
import { SignIn } from "./places/SignIn";
import { Boundary } from "./shell/Boundary";
import { Failed, Loading } from "./shell/States";
import { Frame } from "./shell/Frame";

const Reviews = lazy(() => import("./places/Reviews").then((m) => ({ default: m.Reviews })));
const Review = lazy(() => import("./places/Review").then((m) => ({ default: m.Review })));
const Systems = lazy(() => import("./places/Systems").then((m) => ({ default: m.Systems })));
const System = lazy(() => import("./places/System").then((m) => ({ default: m.System })));
const DocketPage = lazy(() => import("./places/DocketPage").then((m) => ({ default: m.DocketPage })));
const HandPage = lazy(() => import("./places/HandPage").then((m) => ({ default: m.HandPage })));
const RunningPage = lazy(() => import("./places/RunningPage").then((m) => ({ default: m.RunningPage })));
const Shelf = lazy(() => import("./places/Shelf").then((m) => ({ default: m.Shelf })));
const Account = lazy(() => import("./places/Account").then((m) => ({ default: m.Account })));
const People = lazy(() => import("./places/People").then((m) => ({ default: m.People })));
const Installation = lazy(() => import("./places/Installation").then((m) => ({ default: m.Installation })));
const Welcome = lazy(() => import("./places/Welcome").then((m) => ({ default: m.Welcome })));
const Begin = lazy(() => import("./places/Begin").then((m) => ({ default: m.Begin })));
const Help = lazy(() => import("./places/Help").then((m) => ({ default: m.Help })));
const First = lazy(() => import("./places/First").then((m) => ({ default: m.First })));
const Inbox = lazy(() => import("./places/Inbox").then((m) => ({ default: m.Inbox })));
const Workloads = lazy(() => import("./places/Workloads").then((m) => ({ default: m.Workloads })));
const FollowUps = lazy(() => import("./places/FollowUps").then((m) => ({ default: m.FollowUps })));
const Standings = lazy(() => import("./places/Standings").then((m) => ({ default: m.Standings })));
const CapturesPage = lazy(() => import("./places/CapturesPage").then((m) => ({ default: m.CapturesPage })));

export function App() {
  return (
    <Notices>
      <Suspense fallback={<Loading />}>
        <Routes>
          <Route path="/records/:slug/captures" element={<CapturesPage />} />
          <Route path="/welcome" element={<Welcome />} />
          <Route path="/begin" element={<Begin />} />
          <Route path="*" element={<Inside />} />
        </Routes>
      </Suspense>
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
          <Suspense fallback={<Loading />}>
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
          </Suspense>
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
