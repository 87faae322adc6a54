import { useQuery } from "@tanstack/react-query";
import type { MatrixShape, ReviewShape } from "../../../api/client";
import { recorderQuery } from "../../../api/queries";

/** The figures as they would be without the recorder: leading ratio figures divided by k. Comparisons stay as they are. */
export function withoutRecorder(matrix: MatrixShape, review: ReviewShape, k: number): MatrixShape {
  const leads = (test: number, metric: string) =>
    review.tests.find((one) => one.id === test)?.shown[0] === metric;
  const by = (value: number | null) => (value === null ? null : value / k);
  return {
    ...matrix,
    rows: matrix.rows.map((row) =>
      row.scale !== "ratio" || !leads(row.test, row.metric)
        ? row
        : {
            ...row,
            cells: Object.fromEntries(
              Object.entries(row.cells).map(([column, cell]) => [
                column,
                { ...cell, centre: cell.centre / k, low: by(cell.low), high: by(cell.high) },
              ]),
            ),
          },
    ),
  };
}

/** The correction, where the review's pairs give one. */
export function useRecorderFactor(review: number): number | null {
  return useQuery(recorderQuery(review)).data?.k ?? null;
}
