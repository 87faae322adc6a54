import assert from "node:assert/strict";
import { test } from "node:test";
import { linesOf, metricName, type GridLine } from "../src/sheets/matrix/grid/lines";

const NONE: ReadonlySet<string> = new Set();
const VERSUS = { perMetric: true, tailsTellLows: false };
const FIGURES = { perMetric: true, tailsTellLows: true };
const PROGRESS = { perMetric: false, tailsTellLows: false };

function testOf(id: number, workload: number, shown: string[], detail = `detail ${id}`) {
  return { id, workload, name: `workload ${workload}`, detail, short: `short ${id}`, shown };
}

function rowOf(test: number, metric: string, more: object = {}) {
  return { key: `${test}.${metric}`, test, metric, label: metric, direction: "higher", ...more };
}

const REVIEW = {
  tests: [testOf(1, 7, ["average_fps", "low_1pct"]), testOf(2, 8, ["time"]), testOf(3, 7, ["average_fps"])],
};
const MATRIX = {
  rows: [rowOf(1, "average_fps"), rowOf(1, "low_1pct"), rowOf(2, "time"), rowOf(3, "average_fps")],
};

function lines(lens: typeof VERSUS, folded = NONE, only: ReadonlySet<number> | null = null): GridLine[] {
  return linesOf(REVIEW as never, MATRIX as never, lens, { folded, only });
}

function told(found: GridLine[]): string[] {
  return found.map((line) => (line.kind === "group" ? `# ${line.name}` : line.key));
}

test("a workload stands once over its tests, also where others came between", () => {
  assert.deepEqual(told(lines(VERSUS)), [
    "# workload 7",
    "1.average_fps",
    "1.low_1pct",
    "3.average_fps",
    "2.time",
  ]);
});

test("a workload with one row needs no heading of its own", () => {
  const alone = lines(VERSUS).find((line) => line.kind === "line" && line.key === "2.time");
  assert.equal(alone?.kind === "line" && alone.heading, "workload 8");
});

test("a low that the tail of the average tells has no row of its own in Figures", () => {
  assert.ok(!told(lines(FIGURES)).includes("1.low_1pct"));
});

test("a lens without metrics has a row for each test", () => {
  assert.deepEqual(told(lines(PROGRESS)), ["# workload 7", "1", "3", "2"]);
});

test("a folded workload keeps its heading and says how many rows it hides", () => {
  const key = "7";
  const found = lines(VERSUS, new Set([key]));
  assert.deepEqual(told(found), ["# workload 7", "2.time"]);
  const group = found[0];
  assert.deepEqual(group?.kind === "group" && [group.folded, group.rows], [true, 3]);
});

test("rows that can be walked through are numbered without gaps, whatever is folded", () => {
  for (const folded of [NONE, new Set(["7"])]) {
    const numbers = lines(VERSUS, folded).flatMap((line) => (line.kind === "line" ? [line.row] : []));
    assert.deepEqual(numbers, [...numbers.keys()]);
  }
});

test("with a cell open only its test is shown, also when its workload is folded", () => {
  assert.deepEqual(told(lines(VERSUS, new Set(["7"]), new Set([3]))), ["3.average_fps"]);
});

test("what is said of a test as a whole stands on its first row only", () => {
  const leads = lines(VERSUS).flatMap((line) => (line.kind === "line" && line.leads ? [line.key] : []));
  assert.deepEqual(leads, ["1.average_fps", "3.average_fps", "2.time"]);
});

test("a metric says which way is better where it is not higher", () => {
  assert.equal(metricName(rowOf(1, "time", { direction: "lower" }) as never), "time, lower is better");
  assert.equal(metricName(rowOf(1, "clock", { direction: "neither" }) as never), "clock, neither is better");
  const low = { label: "1 % low, mean of the slowest frames" };
  assert.equal(metricName(rowOf(1, "low_1pct", low) as never), "1 % low");
  const tool = { label: "1 % low, as its tool says" };
  assert.equal(metricName(rowOf(1, "low_1pct", tool) as never), "1 % low, as its tool says");
});
