import type { MatrixShape, ReviewShape } from "../../../api/client";
import { difference, signed, verdictInk } from "../../../marks/words";
import { columnOf } from "../../Matrix";
import type { CellPlace } from "../place";

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  cells: CellPlace[];
}

/** What the other metrics of the test say of the chosen configurations, a sentence each. */
export function OtherMetrics({ review, matrix, cells }: Props) {
  const first = cells[0];
  const baseline = columnOf(review, matrix.baseline ?? 0);
  const told = new Set(cells.map((cell) => `${cell.metric}.${cell.column}`));
  const columns = [...new Set(cells.filter((cell) => cell.test === first?.test).map((cell) => cell.column))];
  const sentences = matrix.rows
    .filter((row) => row.test === first?.test)
    .flatMap((row) =>
      columns.flatMap((id) => {
        const c = row.cells[String(id)]?.comparison;
        if (!c || told.has(`${row.metric}.${id}`)) return [];
        return [{ key: `${row.key}.${id}`, row, column: columnOf(review, id), c }];
      }),
    );
  if (!sentences.length) return null;
  return (
    <ul className="mb-2 text-note">
      {sentences.map(({ key, row, column, c }) => (
        <li key={key}>
          {row.label.split(",")[0]}: {column?.label} {difference(c.effect_pct, row.scale, row.unit)} against{" "}
          {baseline?.label}
          {c.low_pct !== null &&
            c.high_pct !== null &&
            `, ${signed(c.low_pct)} to ${signed(c.high_pct)}`}:{" "}
          <span className={verdictInk(c.verdict)}>{c.verdict}</span>.
        </li>
      ))}
    </ul>
  );
}
