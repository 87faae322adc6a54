import type { ReviewShape, Shapes } from "../../../../api/client";
import { columnOf, testOf } from "../../../../api/lookup";
import type { TypedCell } from "../useLedger";

export type Pasted = Shapes["PastedTableShape"];
export type PastedLine = Shapes["PastedLine"];
export type PastedValue = Shapes["PastedValue"];
export type Axis = "row" | "column";

/** What a row or a column is of, as somebody says it. */
export interface Says {
  test: number | null;
  configuration: number | null;
  metric: string | null;
  run: number | null;
  unit: string;
  skip: boolean;
}

/** A row or a column read otherwise; it holds for all of its label, or for its place where it has none. */
export interface Correction {
  axis: Axis;
  label: string;
  block: number;
  at: number;
  says: Says;
}

/** How the figures of a metric are read; "" is for every other one. */
export interface Way {
  metric: string;
  method: string;
  half: string;
}

export function saysOf(line: PastedLine): Says {
  const { test, configuration, metric, run, unit, skip } = line;
  return { test, configuration, metric, run, unit, skip };
}

/** The corrections with one more; the last word on a label holds. */
export function corrected(all: Correction[], next: Correction): Correction[] {
  const same = (one: Correction) =>
    one.axis === next.axis &&
    one.label === next.label &&
    (next.label !== "" || (one.block === next.block && one.at === next.at));
  return [...all.filter((one) => !same(one)), next];
}

/** What a line says, in words; empty where it tells nothing. */
export function saysWords(says: Says, review: ReviewShape, labels: Record<string, string>): string {
  if (says.skip) return "left out";
  const test = says.test === null ? undefined : testOf(review, says.test);
  const column = says.configuration === null ? undefined : columnOf(review, says.configuration);
  return [
    test && [test.name, test.short].filter(Boolean).join(", "),
    column?.label,
    says.metric !== null && (labels[says.metric] ?? says.metric),
    says.run !== null && `run ${says.run}`,
    says.unit && `in ${says.unit}`,
  ]
    .filter(Boolean)
    .join(" · ");
}

/** The values that have a place, as they are stored. */
export function typedOf(pasted: Pasted): TypedCell[] {
  return pasted.values.flatMap(({ looked, run }) =>
    looked
      ? [
          {
            test: looked.test,
            column: looked.column,
            metric: looked.metric,
            text: looked.text,
            ...(looked.method ? { method: looked.method, half_width: looked.half_width } : {}),
            run,
          },
        ]
      : [],
  );
}

/** Rows and columns that somebody has to say more of before anything is stored. */
export function unknownLines(pasted: Pasted): number {
  const open = (lines: PastedLine[]) => lines.filter((line) => line.unknown).length;
  return pasted.blocks.reduce((sum, block) => sum + open(block.rows) + open(block.columns), 0);
}

/** The metrics whose way of reading is asked for, in the order in which they come. */
export function asking(pasted: Pasted, ways: Way[]): string[] {
  const asked = pasted.values.flatMap(({ looked }) => (looked?.asks_method ? [looked.metric] : []));
  return [...new Set([...ways.map((way) => way.metric), ...asked])];
}
