import type { CellShape, MatrixShape, ReviewShape } from "../../api/client";
import { count, figure, signed, verdictInk, withUnit } from "../../marks/words";
import { beyond } from "../Beyond";
import { columnOf } from "../Matrix";
import type { CellPlace } from "./place";
import { settling } from "./VersusCell";

const SETTLED: Record<string, string> = {
  "near the margin": "The difference lies too near the edge of the margin to be called.",
  "over 50 passes needed": "Over 50 passes each would be needed to settle it.",
};

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  cell: CellPlace;
}

/** Evenness and the target rate, where the cell has a tail. */
function tailWords(shape: CellShape, review: ReviewShape): string {
  const { tail } = shape;
  if (!tail) return "";
  const even = tail.evenness == null ? "" : ` Evenness ${figure(tail.evenness, 2)}.`;
  return tail.target ? `${even} Target of ${review.target_fps} fps: ${tail.target}.` : even;
}

/** In what the passes differ from the baseline's as they ran, beyond what the plan shows already. */
function unlike(matrix: MatrixShape, cell: CellPlace, review: ReviewShape) {
  const column = columnOf(review, cell.column);
  const found = matrix.alike.find((row) => row.test === cell.test)?.against[String(cell.column)] ?? [];
  const told = column ? beyond(review, column, matrix.baseline).map((one) => one.key) : [];
  return found.filter((one) => !told.includes(one.key) && !told.includes(`observed.${one.key}`));
}

/** What the cell says against the baseline, in a sentence that can be read aloud. */
export function Sentence({ review, matrix, cell }: Props) {
  const row = matrix.rows.find((one) => one.test === cell.test && one.metric === cell.metric);
  const shape = row?.cells[String(cell.column)];
  const column = columnOf(review, cell.column);
  const baseline = columnOf(review, matrix.baseline ?? 0);
  if (!row || !shape || !column) return null;
  const label = row.label.split(",")[0];
  const c = shape.comparison;
  if (!c) {
    return (
      <p className="mb-2 font-serif text-lead">
        {column.label}: {label} <strong>{withUnit(shape.centre, row.unit)}</strong>, from{" "}
        {count(shape.n, "pass")}
        {shape.why_not && `; ${shape.why_not}`}.{tailWords(shape, review)}
      </p>
    );
  }
  const unit = row.scale === "ratio" ? "%" : row.unit;
  const size = (value: number) =>
    row.scale === "ratio" ? Math.abs(value).toFixed(1) : figure(Math.abs(value));
  const side = c.effect_pct >= 0 ? "ahead of" : "behind";
  const between =
    c.low_pct === null || c.high_pct === null
      ? "; the noise is unknown"
      : Math.sign(c.low_pct) === Math.sign(c.high_pct)
        ? `, between ${size(Math.min(Math.abs(c.low_pct), Math.abs(c.high_pct)))} and ${size(Math.max(Math.abs(c.low_pct), Math.abs(c.high_pct)))} ${unit}`
        : `, from ${size(c.low_pct)} ${unit} behind to ${size(c.high_pct)} ${unit} ahead`;
  const plain = row.direction === "lower" ? c.value_pct : null;
  return (
    <div className="mb-3">
      <p className="font-serif text-lead">
        {column.label} is{" "}
        <strong>
          {size(c.effect_pct)} {unit}
        </strong>{" "}
        {side} {baseline?.label} in {label}
        {between}: <span className={verdictInk(c.verdict)}>{c.verdict}</span>.
      </p>
      {beyond(review, column, matrix.baseline).map((one) => (
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
      <p className="text-note text-quiet">
        {count(c.n, "pass")} against {c.n_baseline}; {row.noise.source} noise
        {row.noise.spread !== null && ` ${figure(row.noise.spread)} ${unit}`} with {row.noise.df} degrees of
        freedom.
        {tailWords(shape, review)}
        {plain !== null &&
          ` As ${row.unit === "s" ? "time" : "value"}: ${signed(plain)} %; the percentages above are of speed.`}
        {c.verdict === "undecided" && ` ${SETTLED[settling(c)] ?? `It would be ${settling(c)} each.`}`}
      </p>
    </div>
  );
}
