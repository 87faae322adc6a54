import assert from "node:assert/strict";
import { test } from "node:test";
import {
  asking,
  corrected,
  saysWords,
  typedOf,
  unknownLines,
  type Pasted,
  type Says,
} from "../src/sheets/matrix/ledger/paste/pasted";
import { PastedTable } from "../src/sheets/matrix/ledger/paste/PastedTable";
import { markup, namesIn, reviewOf, textOf } from "./fixtures";

const NOTHING: Says = { test: null, configuration: null, metric: null, run: null, unit: "", skip: false };
const METRICS = { average_fps: "average", low_1pct: "1 % low" };

function landing(value: number, more: object = {}) {
  return {
    value,
    half_width: 0,
    bound: "",
    outcome: "completed",
    missing: "",
    number: 1,
    new: true,
    settles: false,
    warnings: [],
    reason: "",
    action: "",
    fallback: "",
    ...more,
  };
}

function lookedAt(metric: string, more: object = {}) {
  return {
    test: 1,
    column: 2,
    metric,
    text: "60",
    unit: "fps",
    method: "meter",
    half_width: 0.5,
    asks_method: false,
    error: "",
    landings: [landing(60)],
    ...more,
  };
}

function pastedOf(values: object[], more: object = {}): Pasted {
  return {
    blocks: [
      {
        title: "high",
        rows: [{ label: "tour", unknown: false, ...NOTHING, test: 1 }],
        columns: [
          { label: "kit 2", unknown: false, ...NOTHING, configuration: 2 },
          { label: "the old kit", unknown: true, ...NOTHING },
        ],
        ...more,
      },
    ],
    values: values.map((value) => ({
      block: 0,
      row: 0,
      column: 0,
      text: "60",
      run: null,
      problem: "",
      ...value,
    })),
  } as Pasted;
}

test("a line says in words what it is of, and nothing where it tells nothing", () => {
  const words = (says: Partial<Says>) => saysWords({ ...NOTHING, ...says }, reviewOf(), METRICS);
  assert.equal(words({}), "");
  assert.equal(words({ configuration: 2, metric: "low_1pct", run: 3 }), "kit 2 · 1 % low · run 3");
  assert.equal(words({ test: 1, unit: "min" }), "tour, high · in min");
  assert.equal(words({ test: 1, skip: true }), "left out");
});

test("the last word on a label holds for all of its kind, and on a place for that place", () => {
  const one = { axis: "row" as const, label: "tour", block: 0, at: 0, says: NOTHING };
  const again = { ...one, block: 1, at: 4, says: { ...NOTHING, test: 1 } };
  assert.deepEqual(corrected([one], again), [again]);
  const bare = { ...one, label: "" };
  assert.equal(corrected([bare], { ...bare, at: 1 }).length, 2);
  assert.equal(corrected([one], { ...one, axis: "column" }).length, 2);
});

test("only values with a place are stored, with their run and their way of reading", () => {
  const unread = lookedAt("low_1pct", { method: "", half_width: null });
  const pasted = pastedOf([
    { looked: lookedAt("average_fps"), run: 2 },
    { looked: unread },
    { looked: null },
  ]);
  assert.deepEqual(typedOf(pasted), [
    { test: 1, column: 2, metric: "average_fps", text: "60", method: "meter", half_width: 0.5, run: 2 },
    { test: 1, column: 2, metric: "low_1pct", text: "60", run: null },
  ]);
});

test("lines that name nothing known are counted, and metrics that ask for a way are named once", () => {
  const asks = lookedAt("low_1pct", { asks_method: true });
  const pasted = pastedOf([{ looked: asks }, { looked: asks }, { looked: lookedAt("average_fps") }]);
  assert.equal(unknownLines(pasted), 1);
  assert.deepEqual(asking(pasted, []), ["low_1pct"]);
  const said = [{ metric: "average_fps", method: "meter", half: "" }];
  assert.deepEqual(asking(pasted, said), ["average_fps", "low_1pct"]);
});

test("the table names each value's row, column and pass, and what is wrong with it", () => {
  const values = [
    { looked: lookedAt("average_fps", { landings: [landing(60, { number: 3, warnings: ["Far away."] })] }) },
    { column: 1, text: "nonsense", looked: null, problem: "its row or column is not known yet" },
  ];
  const html = markup(
    <PastedTable pasted={pastedOf(values)} block={0} metrics={METRICS} onSays={() => undefined} />,
  );
  const said = textOf(html);
  for (const words of ["60.0 fps pass 3", "⚑ Far away.", "nonsense its row or column is not known yet"])
    assert.ok(said.includes(words), said);
  assert.deepEqual(namesIn(html), [
    "Column 1, kit 2: kit 2",
    "Column 2, the old kit: not known: say what it is",
    "Row 1, tour: tour, high",
  ]);
});
