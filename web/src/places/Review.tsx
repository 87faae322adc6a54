import { useQuery } from "@tanstack/react-query";
import { lazy } from "react";
import { NavLink, Navigate, useParams } from "react-router";
import { reviewQuery } from "../api/queries";
import { ReviewProvider, useReview } from "../api/review";
import { Failed, Loading } from "../shell/States";

const Brief = lazy(() => import("../sheets/Brief").then((m) => ({ default: m.Brief })));
const Matrix = lazy(() => import("../sheets/Matrix").then((m) => ({ default: m.Matrix })));
const Findings = lazy(() => import("../sheets/Findings").then((m) => ({ default: m.Findings })));
const Verdict = lazy(() => import("../sheets/Verdict").then((m) => ({ default: m.Verdict })));

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
      <ReviewHead />
      {sheet === "brief" && <Brief />}
      {sheet === "matrix" && <Matrix />}
      {sheet === "findings" && <Findings />}
      {sheet === "verdict" && <Verdict />}
    </ReviewProvider>
  );
}

function ReviewHead() {
  const review = useReview();
  return (
    <div className="flex flex-col justify-between gap-x-6 border-b border-line px-5 pt-4 sm:flex-row sm:items-end">
      <div className="min-w-0 pb-2.5">
        <h1 className="font-serif text-title leading-tight font-semibold">{review.question}</h1>
        <p className="mt-1 text-note text-quiet">
          {review.varies && (
            <>
              varies: <strong className="text-ink">{review.varies}</strong> ·{" "}
            </>
          )}
          {review.constant && `constant: ${review.constant} · `}margin {100 * review.margin} %
        </p>
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
  );
}
