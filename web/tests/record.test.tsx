import assert from "node:assert/strict";
import { test } from "node:test";
import { Captures, handsWords } from "../src/places/record/Captures";
import { versus } from "../src/sheets/matrix/lenses/versus";
import {
  cellOf,
  comparisonOf,
  markup,
  matrixOf,
  progressOf,
  reviewOf,
  rowOf,
  testOf,
  textOf,
} from "./fixtures";

const PASS = {
  id: "a",
  test: 1,
  column: 2,
  number: 3,
  outcome: "completed",
  outcome_words: "completed",
  note: "",
  set_aside: false,
  reason: "",
  by: "Ada",
  started_at: "2026-05-04T10:00:00Z",
  has_trace: false,
  frame: {},
  captures: [],
  marks: [],
  pictures: [],
};

function contentOf(more: object = {}): never {
  return {
    format: 2,
    review: reviewOf(),
    matrix: matrixOf(),
    configurations: [],
    passes: [],
    measured_by: ["Ada"],
    published_by: "Ada",
    published_at: "2026-05-05T10:00:00Z",
    ...more,
  } as never;
}

test("a record of passes without traces shows its first, which says what it has or how it failed", () => {
  const said = (...passes: object[]) => textOf(markup(<Captures content={contentOf({ passes })} slug="s" />));
  assert.ok(said(PASS).includes("run by Ada This pass has no frame times."));
  const failed = { ...PASS, outcome: "crashed", outcome_words: "crashed", note: "driver reset" };
  assert.ok(said(failed).includes("by Ada · driver reset crashed"));
  const traced = { ...PASS, id: "b", has_trace: true, by: "Grace" };
  assert.ok(said(PASS, traced).includes("by Grace"), "one with a trace goes first");
  assert.equal(said(), "No pass.");
});

test("a published pass is named with its test, seal, number and state", () => {
  const passes = [
    { ...PASS, outcome: "crashed", outcome_words: "crashed" },
    { ...PASS, id: "b", set_aside: true },
  ];
  const html = markup(<Captures content={contentOf({ passes })} slug="s" />);
  assert.match(html, /tour, high · B kit 2 · pass 3, crashed/);
  assert.match(html, /tour, high · B kit 2 · pass 3, set aside/);
});

const MATRIX = matrixOf({
  rows: [
    rowOf({
      1: cellOf(60),
      2: cellOf(66, { comparison: comparisonOf(10, { told: "+10.0 %", interval: "+9.0 to +11.0 %" }) }),
    }),
  ],
  progress: [{ test: 2, cells: { 2: progressOf({ said: "did not start (no wheel)" }) }, uneven: false }],
  flags: [{ test: 1, cells: { 2: [{ key: "a", words: "pass 3, outlier", severity: "warns" }] } }] as never,
});
const REVIEW = reviewOf({ tests: [testOf(1), testOf(2, { name: "lap", workload: 2 })] });

test("how the figures are to be read stands once under them", () => {
  const said = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: MATRIX }));
  assert.ok(said.includes("Percentages are the plain change of the value"));
  assert.ok(!said.includes("1 % low"), "a review without lows explains none");
  const lows = {
    ...MATRIX,
    rows: [...MATRIX.rows, rowOf({ 1: cellOf(45) }, { key: "1:low_1pct", metric: "low_1pct" })],
  };
  const explained = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: lows }));
  assert.ok(explained.includes("1 % low : mean of the slowest frames."));
  const drifted = {
    ...MATRIX,
    returned: [{ test: 1, at: "x", drifted: true, words: "the session drifted", verdict: "behind" }] as never,
  };
  const warned = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: drifted }));
  assert.ok(warned.includes("⚑ tour, high: the session drifted."));
});

test("a record tells whose hands a pass was in, what was done about it and what ran instead", () => {
  const told = {
    by: "Ines",
    helped_by: "Tomas",
    typed_by: "Mirela",
    note: "driver reset",
    action: "",
    fallback: "",
  };
  assert.equal(handsWords(told), "run by Ines with Tomas · typed by Mirela · driver reset");
  assert.equal(
    handsWords({ ...told, helped_by: "", typed_by: "Ines", action: "went on", fallback: "low preset" }),
    "run by Ines · driver reset · then: went on · instead: low preset",
  );
});
