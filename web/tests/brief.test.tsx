import assert from "node:assert/strict";
import { test } from "node:test";
import { keys } from "../src/api/queries";
import { beyond } from "../src/sheets/Beyond";
import { targetsOf } from "../src/sheets/brief/EditTest";
import { PlanCheck } from "../src/sheets/brief/PlanCheck";
import { metricsOf } from "../src/sheets/brief/ShownMetrics";
import { DifferenceTable } from "../src/sheets/DifferenceTable";
import { columnOf, markup, namesIn, reviewOf, testOf, textOf } from "./fixtures";

const POINT = {
  code: "undeclared",
  severity: "warns",
  words: "fan profile differs, and is not what this review varies.",
  remedy: "Declare it as a factor.",
  mend: "differences",
  about: {},
};
const COST = { passes: 0, running_s: 0, changing_s: 0, openings: 0, firmware: 0, words: [] as string[] };

function check(points: object[], cost: object = COST, may: string[] = []): string {
  return markup(<PlanCheck onOpen={() => undefined} onLight={() => undefined} />, {
    may,
    answers: [[keys.plan(1), { points, cost }]],
  });
}

test("a plan with nothing against it says so", () => {
  assert.ok(textOf(check([])).includes("Nothing speaks against this plan."));
});

test("each point says how grave it is in a word and not by its sign alone", () => {
  const said = textOf(
    check([POINT, { ...POINT, severity: "stops", words: "No test is planned.", mend: "add_test" }]),
  );
  assert.ok(said.includes("2 points"));
  assert.ok(said.includes("warns: fan profile differs"));
  assert.ok(said.includes("stops: No test is planned."));
});

test("a reader may look at what a point is about, an editor may mend it", () => {
  const passes = { ...POINT, mend: "passes", remedy: "Plan 7 passes per test." };
  assert.ok(textOf(check([POINT])).includes("Show it"));
  assert.ok(!textOf(check([passes])).includes("Plan 7 passes"));
  assert.ok(textOf(check([passes], COST, ["edit_review"])).includes("Plan 7 passes per test"));
});

test("what the plan takes is told with its hours and what they rest on", () => {
  const cost = {
    ...COST,
    passes: 9,
    running_s: 3600,
    changing_s: 900,
    openings: 1,
    words: ["20 s between passes"],
  };
  const said = textOf(check([], cost));
  assert.ok(said.includes("9 passes in about"));
  assert.ok(said.includes("15 min of changing with 1 opening and 0 visits to the firmware"));
  assert.ok(said.includes("20 s between passes."));
});

test("what is not known yet is not called sound", () => {
  assert.ok(
    textOf(markup(<PlanCheck onOpen={() => undefined} onLight={() => undefined} />)).includes("Checking"),
  );
});

function differenceOf(key: string, more: object = {}) {
  return {
    key,
    label: key.replace("_", " "),
    kind: "setting",
    group: "",
    parents: [],
    setting: key,
    values: { 1: "2", 2: "3" },
    flagged: [2],
    remark: "differs, and is not what this review varies",
    ...more,
  };
}

const DIFFERENCES = {
  rows: [
    differenceOf("memory_kit", { flagged: [], remark: "varied on purpose: memory" }),
    differenceOf("capacity", { parents: ["memory_kit"] }),
    differenceOf("timing", { parents: ["memory_kit"], values: { 1: "36", 2: null } }),
    differenceOf("fan_profile"),
  ],
  constant: ["graphics Tern 8"],
  caveats: [],
};
const COLUMNS = [columnOf(1), columnOf(2)];

function table(changes: object = {}): string {
  return markup(<DifferenceTable columns={COLUMNS} differences={{ ...DIFFERENCES, ...changes } as never} />);
}

test("what comes with a part that differs is counted under it", () => {
  const said = textOf(table());
  assert.ok(said.includes("and 2 things with it"));
  assert.ok(!said.includes("timing"));
  assert.ok(said.includes("constant over all: graphics Tern 8"));
});

test("a flag stands by its value with a name, and what is not known is not left empty", () => {
  const html = table({ rows: [differenceOf("image", { values: { 1: "41", 2: null } })] });
  assert.ok(namesIn(html).includes(", flagged"));
  assert.ok(textOf(html).includes("not recorded"));
});

test("what somebody took out of a fold stands by itself, with what was accepted", () => {
  const caveats = [{ aspect: "timing", label: "timing", words: "no kit had equal ones", values: {} }];
  const said = textOf(table({ caveats }));
  assert.ok(said.includes("and 1 thing with it"));
  assert.ok(said.includes("timing differs, and that is accepted: no kit had equal ones"));
});

test("under a configuration stands what is its own and is not accepted", () => {
  const review = reviewOf({ differences: DIFFERENCES as never });
  assert.deepEqual(
    beyond(review, columnOf(2), 1).map((one) => [one.words, one.flagged]),
    [["fan profile 3", true]],
  );
  assert.deepEqual(beyond(review, columnOf(1), 1), []);
});

test("an accepted difference is told with its caveat, where the value is another than the baseline's", () => {
  const caveats = [
    { aspect: "image", label: "image", words: "no other was to be had.", values: { 1: "41", 2: "40" } },
  ];
  const review = reviewOf({ differences: { rows: [], constant: [], caveats } as never });
  assert.deepEqual(beyond(review, columnOf(2), 1), [
    { key: "image", words: "image differs: no other was to be had.", flagged: false },
  ]);
  assert.deepEqual(beyond(review, columnOf(1), 1), []);
});

test("metrics of many tests are offered once: of frames, of their workloads, and those that were added", () => {
  const tests = [testOf(1, { metrics: [{ key: "watts", label: "wall power" }] }), testOf(2, { workload: 2 })];
  const workloads = [
    { id: 2, metrics: [{ key: "shots", label: "shots" }] },
    { id: 3, metrics: [{ key: "no", label: "no" }] },
  ];
  const keys = metricsOf(tests, workloads as never).map(([key]) => key);
  assert.deepEqual(keys.slice(0, 2), ["average_fps", "low_1pct"]);
  assert.deepEqual(keys.slice(-2), ["shots", "watts"]);
  assert.equal(new Set(keys).size, keys.length);
});

test("a target field left empty leaves the brief's, a dash is for none, and others stay as they are", () => {
  const form = new FormData();
  form.set("target-average_fps", "30,5");
  form.set("target-low_1pct", "-");
  form.set("target-p99_ms", " ");
  const before = { shown: ["average_fps", "low_1pct", "p99_ms"], targets: { p99_ms: 20, no_failure: true } };
  assert.deepEqual(targetsOf(form, before), { average_fps: 30.5, low_1pct: null, no_failure: true });
});
