import type { MatrixShape } from "../../api/client";
import { reachOf } from "../../marks/VersusMark";
import type { Measure } from "./lenses/lens";

interface Effect {
  better: number | null;
  better_low: number | null;
  better_high: number | null;
}

/** Half of the axis that marks of some effects share, in %. */
function reachOfAll(effects: (Effect | null)[], margin: number): number {
  const extents = effects.flatMap((one) =>
    one?.better == null
      ? []
      : [Math.max(Math.abs(one.better_low ?? one.better), Math.abs(one.better_high ?? one.better))],
  );
  return reachOf(extents, margin || 1);
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
  const rows = matrix.rows.filter((row) => row.scale === "ratio");
  const compared = rows.flatMap((row) => Object.values(row.cells).map((cell) => cell.comparison));
  const economy = matrix.economy.flatMap((row) => Object.values(row.cells));
  return {
    reach: reachOfAll(compared, matrix.margin_pct),
    economyReach: reachOfAll(economy, matrix.margin_pct),
    top: axisTop(matrix),
  };
}
