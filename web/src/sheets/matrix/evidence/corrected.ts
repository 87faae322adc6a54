import type { MatrixShape } from "../../../api/client";

/** Whether pairs of passes show what recording costs in some row. */
export function hasCorrection(matrix: MatrixShape): boolean {
  return matrix.rows.some((row) => Object.values(row.cells).some((cell) => cell.corrected !== null));
}

/** The centres as the server says they would be without the recorder; comparisons stay as they are. */
export function withoutRecorder(matrix: MatrixShape): MatrixShape {
  return {
    ...matrix,
    rows: matrix.rows.map((row) => ({
      ...row,
      cells: Object.fromEntries(
        Object.entries(row.cells).map(([column, cell]) => [
          column,
          cell.corrected === null ? cell : { ...cell, centre: cell.corrected, low: null, high: null },
        ]),
      ),
    })),
  };
}
