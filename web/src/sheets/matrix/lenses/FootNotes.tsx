import type { ReactNode } from "react";
import { testOf } from "../../../api/lookup";
import { useMatrix, useReview } from "../../../api/review";
import { count } from "../../../marks/words";
import { Term } from "../../../design/Term";

/** What a lens of figures says once: its intervals, which low, and what is to be read with care. */
export function FootNotes({ children }: { children: ReactNode }) {
  const matrix = useMatrix();
  const thin = matrix.rows.some((row) => Object.values(row.cells).some((cell) => cell.thin));
  const hasLows = matrix.rows.some(
    (row) => row.metric.startsWith("low_") || Object.values(row.cells).some((cell) => cell.tail),
  );
  const unknown = matrix.rows.some(
    (row) => row.noise.source === "unknown" && Object.keys(row.cells).length > 1,
  );
  return (
    <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">
      {children}
      {hasLows && (
        <>
          <Term name="1 % low" />: {matrix.low_words}.
        </>
      )}
      {thin && (
        <>
          {" "}
          <Term name="thin tail">Thin tails</Term> take part in no verdict.
        </>
      )}
      {unknown && " Where no cell of a row has a second pass, the noise is unknown and there is no verdict."}
      <Returned />
    </p>
  );
}

/** Whether the baseline, measured again after others, is what it was. */
export function Returned() {
  const review = useReview();
  const matrix = useMatrix();
  if (!matrix.returned.length) return null;
  const drifted = matrix.returned.filter((one) => one.drifted);
  const level = matrix.returned.filter((one) => one.verdict === "level").length;
  const open = matrix.returned.length - level - drifted.length;
  const rest = [
    level > 0 && `level in ${count(level, "test")}`,
    open > 0 && `not to be told from so few passes in ${count(open, "test")}`,
  ].filter(Boolean);
  return (
    <>
      {drifted.map((one) => (
        <span key={`${one.test} ${one.at}`} className="block text-mark">
          ⚑ {testOf(review, one.test)?.name}, {testOf(review, one.test)?.detail}: {one.words}. Every
          comparison of the session is to be read with that.
        </span>
      ))}
      {rest.length > 0 && <span className="block">The baseline measured again: {rest.join(", ")}.</span>}
    </>
  );
}
