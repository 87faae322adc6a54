import type { CellPlace } from "../place";
import { useMatrix } from "../../../api/review";

interface Props {
  cells: CellPlace[];
}

/** What the other metrics of the test say of the chosen configurations, a sentence each. */
export function OtherMetrics({ cells }: Props) {
  const matrix = useMatrix();
  const first = cells[0];
  const told = new Set(cells.map((cell) => `${cell.metric}.${cell.column}`));
  const columns = [...new Set(cells.filter((cell) => cell.test === first?.test).map((cell) => cell.column))];
  const sentences = matrix.rows
    .filter((row) => row.test === first?.test)
    .flatMap((row) =>
      columns.flatMap((id) => {
        const cell = row.cells[String(id)];
        if (!cell?.comparison || told.has(`${row.metric}.${id}`)) return [];
        return [{ key: `${row.key}.${id}`, words: cell.sentence }];
      }),
    );
  if (!sentences.length) return null;
  return (
    <ul className="mb-2 text-note">
      {sentences.map(({ key, words }) => (
        <li key={key}>{words}</li>
      ))}
    </ul>
  );
}
