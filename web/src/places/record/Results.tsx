import { Seal } from "../../marks/Seal";
import { Beyond } from "../../sheets/Beyond";
import { measureOf } from "../../sheets/matrix/axes";
import { FlagLine, flagsOf } from "../../sheets/matrix/FlagLine";
import { linesOf } from "../../sheets/matrix/grid/lines";
import { GroupHead, RowHead } from "../../sheets/matrix/grid/RowHead";
import type { LensObject } from "../../sheets/matrix/lenses/lens";
import { useMatrix, useReview } from "../../api/review";

interface Props {
  lens: LensObject;
}

const ALL: ReadonlySet<string> = new Set();

/** The matrix through one lens as a plain table: the same signs, reasons and warnings as in the matrix itself. */
export function Results({ lens }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const lines = linesOf(review, matrix, lens, { folded: ALL, only: null });
  const measure = measureOf(matrix);
  return (
    <div className="overflow-x-auto">
      <table
        className="w-full table-fixed border-collapse bg-sheet"
        style={{ minWidth: 208 + lens.baselinePx + lens.columnPx * (review.columns.length - 1) - 40 }}
      >
        <colgroup>
          <col className="w-52" />
          {review.columns.map((column) => (
            <col
              key={column.id}
              style={column.id === matrix.baseline ? { width: lens.baselinePx } : undefined}
            />
          ))}
        </colgroup>
        <thead>
          <tr className="border border-line text-left text-note">
            <th scope="col" className="px-2.5 py-2">
              Test
            </th>
            {review.columns.map((column) => (
              <th scope="col" key={column.id} className="border-l border-line px-2.5 py-2 align-top">
                <Seal
                  position={column.position}
                  label={column.label}
                  baseline={column.id === matrix.baseline}
                  size={20}
                />{" "}
                {column.label}
                <Beyond column={column} baseline={matrix.baseline} all />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) =>
            line.kind === "group" ? (
              <tr key={`group ${line.key}`} className="border border-line bg-paper">
                <th scope="rowgroup" colSpan={review.columns.length + 1} className="px-2.5 text-left">
                  <GroupHead line={line} />
                </th>
              </tr>
            ) : (
              <tr key={line.key} className="border border-line">
                <th scope="row" className="px-2.5 py-1 text-left">
                  <RowHead line={line} />
                </th>
                {review.columns.map((column) => (
                  <td key={column.id} className="border-l border-line px-2.5 py-1">
                    <lens.Cell line={line} column={column} measure={measure} />
                    {line.leads && <FlagLine all flags={flagsOf(matrix, line.test, column.id)} />}
                  </td>
                ))}
              </tr>
            ),
          )}
        </tbody>
      </table>
    </div>
  );
}
