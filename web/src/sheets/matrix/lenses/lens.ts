import type { ComponentType } from "react";
import type { ColumnShape, MatrixShape } from "../../../api/client";
import type { Line } from "../grid/lines";

/** What a lens gets to draw one cell. */
export interface LensCellProps {
  line: Pick<Line, "test" | "metric" | "key">;
  column: ColumnShape;
  /** Axes that all cells of a lens share. */
  measure: Measure;
}

export interface Measure {
  /** Half of the axis of the Versus marks, in %. */
  reach: number;
  /** The same of the Economy marks. */
  economyReach: number;
  /** Right end of the tails' axis for each row. */
  top: Record<string, number>;
}

/** One look at the matrix. To add one is to write this object and a line in the registry. */
export interface LensObject {
  key: string;
  name: string;
  /** A row for each metric of a test, or one for the test. */
  perMetric: boolean;
  /** Whether its cells tell the lows beside the average, so that they need no rows of their own. */
  tailsTellLows: boolean;
  /** Whether figures can be typed into its cells. */
  takesTyping: boolean;
  /** Least width of a column and of the baseline's, and about how high a row is. */
  columnPx: number;
  baselinePx: number;
  rowPx: number;
  /** What stands over the names of the tests. */
  headline: (matrix: MatrixShape) => string;
  Cell: ComponentType<LensCellProps>;
  /** What it says of a configuration, under its name. */
  Head?: ComponentType<{ column: ColumnShape }>;
  /** How its marks are read, beside the lenses. */
  Legend: ComponentType;
  /** What is said once, under the grid. */
  Foot: ComponentType;
}
