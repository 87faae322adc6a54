import type { MatrixShape, ReviewShape, RowShape, TestShape } from "../../../api/client";

/** What of a lens decides which rows the grid has. */
type Lens = { perMetric: boolean; tailsTellLows: boolean };

/** A row of the grid: a test, or one of its metrics. */
export interface Line {
  kind: "line";
  key: string;
  test: number;
  metric: string;
  /** The workload, and the test in full with the metric: what is read aloud of the row. */
  name: string;
  detail: string;
  /** What the row's own head says: the workload where it stands alone, the test on its first row, the metric. */
  heading: string;
  short: string;
  label: string;
  /** Whether it is the first row of its test, which carries what is said of the test as a whole. */
  leads: boolean;
  /** Its place among the rows that can be walked through. */
  row: number;
}

/** The name of a workload over its tests. */
export interface GroupLine {
  kind: "group";
  key: string;
  name: string;
  detail: string;
  rows: number;
  folded: boolean;
}

export type GridLine = Line | GroupLine;

interface Options {
  /** Workloads that are folded, by group key. */
  folded: ReadonlySet<string>;
  /** Only these tests are shown, unfolded: those of the open cells. Null for all. */
  only: ReadonlySet<number> | null;
  /** While figures are typed, rows that have none yet are shown too. */
  typing?: boolean;
}

/** The matrix as a page of results: the workload once, under it its tests, under each the metrics shown. */
export function linesOf(
  review: Pick<ReviewShape, "tests">,
  matrix: Pick<MatrixShape, "rows">,
  lens: Lens,
  { folded, only, typing = false }: Options,
): GridLine[] {
  const found: GridLine[] = [];
  let row = 0;
  for (const [key, tests] of groupsOf(review.tests)) {
    const lines = tests
      .filter((test) => only === null || only.has(test.id))
      .flatMap((test) => ofTest(test, matrix.rows, lens, typing));
    if (!lines.length) continue;
    const alone = lines.length === 1;
    const first = tests[0];
    if (!first) continue;
    const isFolded = only === null && folded.has(key);
    if (!alone) {
      found.push({
        kind: "group",
        key,
        name: first.name,
        detail: tests.length === 1 ? first.detail : "",
        rows: lines.length,
        folded: isFolded,
      });
    }
    if (isFolded && !alone) continue;
    for (const line of lines) {
      found.push({
        ...line,
        heading: alone ? line.name : "",
        short: alone ? (line.short ? line.short : testDetail(tests, line.test)) : line.short,
        row,
      });
      row += 1;
    }
  }
  return found;
}

/** Tests of one workload stand together, in the order in which the first of each comes. */
function groupsOf(tests: TestShape[]): Map<string, TestShape[]> {
  const groups = new Map<string, TestShape[]>();
  for (const test of tests) {
    const key = `${test.workload}`;
    groups.set(key, [...(groups.get(key) ?? []), test]);
  }
  return groups;
}

function testDetail(tests: TestShape[], id: number): string {
  return tests.find((test) => test.id === id)?.detail ?? "";
}

type Bare = Omit<Line, "heading" | "row">;

function ofTest(test: TestShape, rows: RowShape[], lens: Lens, typing: boolean): Bare[] {
  if (!lens.perMetric) {
    return [
      {
        kind: "line",
        key: String(test.id),
        test: test.id,
        metric: test.shown[0] ?? "",
        name: test.name,
        detail: test.detail,
        short: test.short,
        label: "",
        leads: true,
      },
    ];
  }
  return rows
    .filter(
      (row) =>
        row.test === test.id &&
        !(lens.tailsTellLows && isToldByTail(test, row.metric)) &&
        (typing || !isBare(row)),
    )
    .map((row, at) => ({
      kind: "line",
      key: row.key,
      test: test.id,
      metric: row.metric,
      name: test.name,
      detail: [test.detail, metricName(row)].filter(Boolean).join(" · "),
      short: at === 0 ? test.short : "",
      label: metricName(row),
      leads: at === 0,
    }));
}

/** The lows stand beside the average already. */
function isToldByTail(test: TestShape, metric: string): boolean {
  return metric.startsWith("low_") && test.shown.includes("average_fps");
}

/** A row of first runs of which there are none yet; it is there to be typed into. */
function isBare(row: RowShape): boolean {
  return row.kind === "first" && Object.keys(row.cells).length + Object.keys(row.apart).length === 0;
}

const KINDS: Record<string, string> = { "worked out": ", worked out", toggle: ", switched within a run" };

/** A metric with what has to be known to read it. */
export function metricName(row: Pick<RowShape, "metric" | "label" | "direction" | "kind">): string {
  const told = row.label.endsWith("as its tool says");
  const plain = row.metric.startsWith("low_") && !told ? (row.label.split(",")[0] ?? row.label) : row.label;
  const label = plain + (KINDS[row.kind] ?? "");
  if (row.direction === "lower") return `${label}, lower is better`;
  return row.direction === "neither" ? `${label}, neither is better` : label;
}
