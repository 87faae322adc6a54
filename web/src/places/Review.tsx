import { unbroken } from "../marks/words";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState, type ComponentType, type ReactNode } from "react";
import { NavLink, Navigate, useParams, useSearchParams } from "react-router";
import { reviewQuery, talkQuery } from "../api/queries";
import { ReviewProvider, useReview } from "../api/review";
import { Button } from "../design/Button";
import { later } from "../design/later";
import { useKeys } from "../shell/keys";
import { Failed, Loading } from "../shell/States";
import { TalkingProvider, useTalking, type Talking, type Thing } from "../talk/talking";
import { Talk } from "../talk/Talk";
import { useLooking } from "../talk/useLooking";

const sheetOf = (fetch: () => Promise<ComponentType>) => later(fetch, () => <Loading />);
const Brief = sheetOf(() => import("../sheets/Brief").then((m) => m.Brief));
const Matrix = sheetOf(() => import("../sheets/Matrix").then((m) => m.Matrix));
const Findings = sheetOf(() => import("../sheets/Findings").then((m) => m.Findings));
const Verdict = sheetOf(() => import("../sheets/Verdict").then((m) => m.Verdict));

const SHEETS = [
  ["brief", "Brief"],
  ["matrix", "Matrix"],
  ["findings", "Findings"],
  ["verdict", "Verdict"],
] as const;

/** One review: its question above, and one of its sheets. */
export function Review() {
  const { review: id, sheet } = useParams();
  const review = useQuery(reviewQuery(Number(id)));
  if (review.isPending) return <Loading />;
  if (review.isError) return <Failed error={review.error} again={() => void review.refetch()} />;
  if (!SHEETS.some(([name]) => name === sheet)) return <Navigate to={`/reviews/${id}/matrix`} replace />;
  return (
    <ReviewProvider review={review.data}>
      <WithTalk sheet={sheet ?? "matrix"}>
        {sheet === "brief" && <Brief />}
        {sheet === "matrix" && <Matrix />}
        {sheet === "findings" && <Findings />}
        {sheet === "verdict" && <Verdict />}
      </WithTalk>
    </ReviewProvider>
  );
}

/** A sheet with its head, and beside it the talk of the review. */
function WithTalk({ sheet, children }: { sheet: string; children: ReactNode }) {
  const [params] = useSearchParams();
  const [thing, setThing] = useState<Thing | null>(null);
  const [open, setOpen] = useState(params.has("talk"));
  // Another thing is another comment.
  const [asked, setAsked] = useState(0);
  const talking = useMemo<Talking>(
    () => ({
      open: (about) => {
        setThing(about ?? null);
        setOpen(true);
        setAsked((times) => times + 1);
      },
    }),
    [],
  );
  useKeys({ c: () => talking.open() });
  return (
    <TalkingProvider value={talking}>
      {/* On a wide screen talk stands beside the sheet, so that what is talked about stays in sight. */}
      <div className={`flex min-w-0 flex-1 flex-col ${open ? "min-[1200px]:mr-[380px]" : ""}`}>
        <ReviewHead sheet={sheet} />
        {children}
      </div>
      {open && <Talk key={asked} thing={thing} onClose={() => setOpen(false)} />}
    </TalkingProvider>
  );
}

function ReviewHead({ sheet }: { sheet: string }) {
  const review = useReview();
  const talking = useTalking();
  const talk = useQuery(talkQuery(review.id));
  const looking = useLooking(review.id, sheet);
  return (
    <div className="flex flex-col justify-between gap-x-6 border-b border-line px-5 pt-4 sm:flex-row sm:items-end">
      <div className="min-w-0 pb-2.5">
        <h1 className="font-serif text-title leading-tight font-semibold">{review.question}</h1>
        <p className="mt-1 text-note text-quiet">
          {review.archived_at && <strong className="text-ink">archived · </strong>}
          {review.varies && (
            <>
              varies: <strong className="text-ink">{review.varies}</strong> ·{" "}
            </>
          )}
          {review.constant && `constant: ${review.constant} · `}margin {unbroken(`${100 * review.margin} %`)}
        </p>
      </div>
      <div className="flex items-end gap-6">
        <div className="flex items-baseline gap-4 pb-3 text-note print:hidden">
          {looking.data && looking.data.length > 0 && (
            <span className="text-quiet" role="status">
              {looking.data.map((one) => `${one.display_name.split(" ")[0]} (${one.sheet})`).join(", ")} also
              here
            </span>
          )}
          <Button kind="link" onClick={() => talking?.open()}>
            talk{talk.data && talk.data.open > 0 ? ` ${talk.data.open}` : ""}
            {talk.data && talk.data.unread > 0 && (
              <span className="text-mark"> · {talk.data.unread} new</span>
            )}
          </Button>
        </div>
        <nav aria-label="Sheets" className="flex gap-6 text-lead print:hidden">
          {SHEETS.map(([name, words]) => (
            <NavLink
              key={name}
              to={`/reviews/${review.id}/${name}`}
              className={({ isActive }) =>
                `border-b-3 pb-2.5 no-underline ${isActive ? "border-mark font-semibold" : "border-transparent text-quiet hover:text-ink"}`
              }
            >
              {words}
            </NavLink>
          ))}
        </nav>
      </div>
    </div>
  );
}
