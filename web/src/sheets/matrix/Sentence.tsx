import type { MatrixShape, ReviewShape } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { verdictInk } from "../../marks/words";
import { beyond } from "../Beyond";
import type { CellPlace } from "./place";
import { useMatrix, useReview } from "../../api/review";

interface Props {
  cell: CellPlace;
}

/** In what the passes differ from the baseline's as they ran, beyond what the plan shows already. */
function unlike(matrix: MatrixShape, cell: CellPlace, review: ReviewShape) {
  const column = columnOf(review, cell.column);
  const found = matrix.alike.find((row) => row.test === cell.test)?.against[String(cell.column)] ?? [];
  const told = column ? beyond(review, column, matrix.baseline).map((one) => one.key) : [];
  return found.filter((one) => !told.includes(one.key) && !told.includes(`observed.${one.key}`));
}

/** What the cell says against the baseline, in a sentence that can be read aloud, and on what that rests. */
export function Sentence({ cell }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const row = matrix.rows.find((one) => one.test === cell.test && one.metric === cell.metric);
  const shape = row?.cells[String(cell.column)];
  const column = columnOf(review, cell.column);
  if (!row || !shape || !column) return null;
  const verdict = shape.comparison?.verdict;
  return (
    <div className="mb-3">
      <p className="font-serif text-lead">
        {verdict && shape.sentence.endsWith(`: ${verdict}.`) ? (
          <>
            {shape.sentence.slice(0, -verdict.length - 1)}
            <span className={verdictInk(verdict)}>{verdict}</span>.
          </>
        ) : (
          shape.sentence
        )}
      </p>
      {shape.comparison &&
        beyond(review, column, matrix.baseline).map((one) => (
          <p key={one.key} className={`text-note ${one.flagged ? "text-mark" : ""}`}>
            {one.flagged ? "⚑ Beyond the question: " : "Accepted: "}
            {one.words.replace(/\.$/, "")}.
          </p>
        ))}
      {unlike(matrix, cell, review).map((one) => (
        <p key={one.key} className={`text-note ${one.severity === "notes" ? "text-quiet" : "text-mark"}`}>
          {one.severity === "notes" ? "As they ran: " : "⚑ As they ran: "}
          {one.words}
          {one.accepted && `, accepted: ${one.accepted}`}.
        </p>
      ))}
      <p className="text-note text-quiet">{shape.basis.join(" ")}</p>
    </div>
  );
}
