import { act } from "../../../api/acts";
import { columnOf } from "../../../api/lookup";
import { Button } from "../../../design/Button";
import { useAct } from "../../../design/useAct";
import { flagsOf } from "../FlagLine";
import type { CellPlace } from "../place";
import { cellKey } from "./chosen";
import { useMatrix, useReview } from "../../../api/review";
import { useMay } from "../../../api/session";

interface Props {
  cells: CellPlace[];
}

/** What is conspicuous about the chosen cells. Only a pass that was run as another test is left out, until decided. */
export function CellFlags({ cells }: Props) {
  const may = useMay();
  const review = useReview();
  const matrix = useMatrix();
  const run = useAct();
  const found = cells.flatMap((cell) =>
    flagsOf(matrix, cell.test, cell.column).map((flag) => ({
      key: `${cellKey(cell)} ${flag.key}`,
      cell,
      column: columnOf(review, cell.column),
      flag,
    })),
  );
  const uneven = matrix.progress.some((row) => row.uneven && cells.some((cell) => cell.test === row.test));
  if (!found.length && !uneven) return null;
  const count = (cell: CellPlace, flag: string) =>
    void run(
      () => act("PUT", `/api/reviews/${review.id}/tests/${cell.test}/columns/${cell.column}/looks`, { flag }),
      { said: "The pass counts, and the record says so.", made: "looks" },
    );
  return (
    <ul className="mb-2 text-note">
      {found.map(({ key, cell, column, flag }) => (
        <li key={key} className={flag.severity === "notes" ? "text-quiet" : "text-mark"}>
          {flag.severity !== "notes" && "⚑ "}
          {cells.length > 1 && `${column?.label}: `}
          {flag.words}
          {flag.severity === "blocks" && may("set_aside") && (
            <Button kind="link" className="ml-2" onClick={() => count(cell, flag.key)}>
              Count it all the same
            </Button>
          )}
        </li>
      ))}
      {uneven && <li className="text-quiet">The cells of this test have different numbers of passes.</li>}
    </ul>
  );
}
