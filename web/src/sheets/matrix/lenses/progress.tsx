import { PipLegend } from "../../../marks/Pips";
import { DifferenceTable } from "../../DifferenceTable";
import { ProgressCellView } from "../ProgressCellView";
import type { LensObject } from "./lens";

export const progress: LensObject = {
  key: "progress",
  name: "Progress",
  perMetric: false,
  tailsTellLows: false,
  takesTyping: false,
  columnPx: 130,
  baselinePx: 130,
  rowPx: 42,
  headline: ({ totals: { kept, owed, running } }) => `${kept} of ${kept + owed + running} passes`,
  Cell: ({ matrix, line, column }) => (
    <ProgressCellView
      cell={matrix.progress.find((row) => row.test === line.test)?.cells[String(column.id)]}
    />
  ),
  Legend: () => <PipLegend />,
  Foot: ({ review }) => (
    <div className="mt-4">
      <DifferenceTable columns={review.columns} differences={review.differences} />
    </div>
  ),
};
