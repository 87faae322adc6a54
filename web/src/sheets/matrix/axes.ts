import type { MatrixShape } from "../../api/client";
import { reachOf } from "../../marks/VersusMark";
import type { Measure } from "./lenses/lens";

/** Half of the axis that all Versus marks share, in %. */
export function axisReach(matrix: MatrixShape): number {
  const extents = matrix.rows
    .filter((row) => row.scale === "ratio")
    .flatMap((row) => Object.values(row.cells))
    .flatMap((cell) => {
      const c = cell.comparison;
      return c ? [Math.max(Math.abs(c.better_low ?? c.better), Math.abs(c.better_high ?? c.better))] : [];
    });
  return reachOf(extents, matrix.margin_pct || 1);
}

/** Right end of the tails' axis for each row. */
function axisTop(matrix: MatrixShape): Record<string, number> {
  return Object.fromEntries(
    matrix.rows.map((row) => [
      row.key,
      Math.max(...Object.values(row.cells).map((cell) => cell.high ?? cell.centre)),
    ]),
  );
}

export function measureOf(matrix: MatrixShape): Measure {
  return { reach: axisReach(matrix), top: axisTop(matrix) };
}
