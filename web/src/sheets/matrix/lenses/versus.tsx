import type { MatrixShape } from "../../../api/client";
import { AgainstBaseline } from "./AgainstBaseline";
import { VersusCell } from "../VersusCell";
import { Apart, Missing } from "../Missing";
import { FootNotes } from "./FootNotes";
import type { LensObject } from "./lens";
import { useMatrix } from "../../../api/review";
import { Term } from "../../../design/Term";
import { quantity } from "../../../marks/words";

export const versus: LensObject = {
  key: "versus",
  name: "Versus",
  perMetric: true,
  tailsTellLows: false,
  takesTyping: true,
  columnPx: 284,
  baselinePx: 189,
  rowPx: 42,
  headline: () => "change against the baseline",
  Cell: ({ line, column, measure }) => {
    const matrix = useMatrix();
    const row = matrix.rows.find((one) => one.key === line.key);
    const cell = row?.cells[String(column.id)];
    if (!row || !cell) return <Missing row={row} line={line} column={column.id} />;
    return (
      <>
        <VersusCell row={row} cell={cell} reach={measure.reach} isBaseline={column.id === matrix.baseline} />
        <Apart row={row} column={column.id} />
      </>
    );
  },
  Legend: () => {
    const matrix = useMatrix();
    return (
      <AgainstBaseline>
        {" "}
        · shaded: <Term name="margin" /> ± {quantity(Number(matrix.margin_pct.toFixed(1)))} % · bars: 95 %
      </AgainstBaseline>
    );
  },
  Foot: () => {
    const matrix = useMatrix();
    return (
      <FootNotes>
        Percentages are the plain change of the value; mark and word say whether it is good.{" "}
        {levelWords(matrix)}
      </FootNotes>
    );
  },
};

/** The error level of each comparison follows from how many the row has. */
export function levelWords(matrix: Pick<MatrixShape, "rows">): string {
  const levels = [
    ...new Set(
      matrix.rows
        .filter((row) => Object.values(row.cells).some((cell) => cell.comparison))
        .map((row) => row.level_pct.toFixed(2)),
    ),
  ].sort();
  const [lowest, highest] = [levels[0], levels[levels.length - 1]];
  if (!lowest || !highest) return "";
  const each = lowest === highest ? `${lowest} %` : `${lowest} to ${highest} %`;
  return `Intervals hold with 95 % for all comparisons of a row together, so each has an error level of ${each}. `;
}
