import { PipLegend } from "../../../marks/Pips";
import { DifferenceTable } from "../../DifferenceTable";
import { ProgressCellView } from "../ProgressCellView";
import type { LensObject } from "./lens";
import { useMatrix, useReview } from "../../../api/review";

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
  Cell: ({ line, column }) => {
    const matrix = useMatrix();
    return (
      <ProgressCellView
        cell={matrix.progress.find((row) => row.test === line.test)?.cells[String(column.id)]}
      />
    );
  },
  Legend: () => <PipLegend />,
  Foot: () => {
    const review = useReview();
    return (
      <div className="mt-4">
        <DifferenceTable columns={review.columns} differences={review.differences} />
      </div>
    );
  },
};
