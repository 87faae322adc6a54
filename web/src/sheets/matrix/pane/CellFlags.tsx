import type { MatrixShape, ReviewShape } from "../../../api/client";
import { columnOf } from "../../Matrix";
import type { CellPlace } from "../place";
import { cellKey } from "./chosen";

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  cells: CellPlace[];
}

/** What is conspicuous about the chosen cells; none of it removes anything. */
export function CellFlags({ review, matrix, cells }: Props) {
  const found = cells.flatMap((cell) => {
    const row = matrix.progress.find((one) => one.test === cell.test);
    const unlike = matrix.alike.find((one) => one.test === cell.test)?.within[String(cell.column)] ?? [];
    const notes = [
      ...(row?.cells[String(cell.column)]?.notes ?? []),
      ...unlike
        .filter((one) => one.severity !== "notes")
        .map((one) => `not comparable from pass to pass: ${one.words}`),
    ];
    return notes.map((words) => ({
      key: `${cellKey(cell)} ${words}`,
      column: columnOf(review, cell.column),
      words,
    }));
  });
  const uneven = matrix.progress.some((row) => row.uneven && cells.some((cell) => cell.test === row.test));
  if (!found.length && !uneven) return null;
  return (
    <ul className="mb-2 text-note">
      {found.map(({ key, column, words }) => (
        <li key={key} className="text-mark">
          ⚑ {cells.length > 1 && `${column?.label}: `}
          {words}
        </li>
      ))}
      {uneven && <li className="text-quiet">The cells of this test have different numbers of passes.</li>}
    </ul>
  );
}
