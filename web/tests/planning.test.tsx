import assert from "node:assert/strict";
import { test } from "node:test";
import { placesOf } from "../src/places/system/EditConfiguration";
import { settingNamed } from "../src/places/system/SettingName";
import { familiesIn } from "../src/sheets/brief/DeclareTogether";
import { openColumns, workloadsWithRungs } from "../src/sheets/brief/Ladders";
import { LadderTable } from "../src/sheets/ladders/LadderTable";
import { comparableTests } from "../src/sheets/matrix/evidence/PicturesDialog";
import { doubtWords, notedOf } from "../src/sheets/matrix/pane/SensorsOf";
import { columnOf, markup, reviewOf, testOf, textOf } from "./fixtures";

const KIND = { key: "storage", label: "storage", opens: true, several: true, attributes: [] };

test("of a kind that may be there several times, the next free place is offered", () => {
  const places = (filled: Record<string, number>, several = true) =>
    placesOf({ ...KIND, several }, filled).map((one) => one.words);
  assert.deepEqual(places({}), ["storage"]);
  assert.deepEqual(places({ storage: 1 }), ["storage", "storage 2"]);
  assert.deepEqual(places({ storage: 1, "storage 3": 2 }), ["storage", "storage 3", "storage 4"]);
  assert.deepEqual(places({ storage: 1 }, false), ["storage"]);
});

const KNOWN = {
  key: "memory_mts",
  label: "memory speed",
  kind: "number",
  unit: "MT/s",
  choices: [],
  group: "",
  where: "firmware",
  touches: "memory",
  restart: false,
  verify: "",
  own: false,
  used: [],
};

test("a setting is found by its label in any case, or by its key", () => {
  assert.equal(settingNamed(" Memory Speed ", [KNOWN])?.key, "memory_mts");
  assert.equal(settingNamed("memory_mts", [KNOWN])?.key, "memory_mts");
  assert.equal(settingNamed("memory", [KNOWN]), undefined);
});

test("a family of bundles is offered as one factor where two of its settings differ", () => {
  const tight = { family: "memory tuning", workload: "", settings: { memory_mts: 6000, memory_cas: 30 } };
  const picture = { family: "picture", workload: "silt", settings: { preset: "high", shadows: "low" } };
  const rows = (keys: string[]) => keys.map((key) => ({ key }));
  assert.deepEqual(familiesIn(rows(["memory_mts", "fan", "memory_cas"]), [tight, picture]), [
    ["memory tuning", ["memory_mts", "memory_cas"]],
  ]);
  assert.deepEqual(familiesIn(rows(["memory_mts", "preset", "shadows"]), [tight, picture]), []);
});

const rung = (name: string, word: string) => ({ test: 1, name, word, said: [] });
const LADDER = {
  id: 1,
  name: "presets",
  tests: [1, 2],
  names: ["high", "low"],
  cells: {
    "1": {
      word: "found",
      words: "low meets the target",
      best: 2,
      best_name: "low",
      next: null,
      going: false,
      rungs: [rung("high", "missed"), rung("low", "met")],
    },
    "2": {
      word: "open",
      words: "high comes next",
      best: null,
      best_name: "",
      next: 1,
      going: true,
      rungs: [rung("high", ""), rung("low", "")],
    },
  },
};

test("a ladder says what is recommended, what came of each rung in a word, and what goes on", () => {
  const review = { ...reviewOf(), columns: [columnOf(1), columnOf(2)] };
  const said = textOf(markup(<LadderTable ladders={[LADDER]} />, { review }));
  assert.ok(said.includes("high › low"));
  assert.ok(said.includes("high : missed"));
  assert.ok(said.includes("low meets the target"));
  assert.ok(said.includes("high comes next; going down by itself"));
});

test("configurations with a rung to try are those that a descent is for", () => {
  assert.deepEqual(openColumns(LADDER), [2]);
});

test("only workloads with two tests or more can be a ladder", () => {
  const tests = [testOf(1), testOf(2), testOf(3, { workload: 2 })];
  assert.deepEqual(
    workloadsWithRungs(tests).map((own) => own.map((one) => one.id)),
    [[1, 2]],
  );
});

test("pictures are compared between configurations of one test", () => {
  const side = (test: number, column: number) => ({ test, column });
  assert.deepEqual(comparableTests([side(1, 1), side(1, 1), side(2, 1), side(2, 2)]), [2]);
});

test("what is noted of a sensor says how far it reaches, and a record of before has nothing noted", () => {
  const noted = {
    id: 1,
    sensor: "hot spot",
    kind: "not recorded",
    reason: "its window",
    by: "Ines",
    scope: "pass",
  };
  assert.equal(doubtWords(noted), "hot spot: shown, not recorded; its window");
  assert.equal(
    doubtWords({ ...noted, kind: "wrong", scope: "system" }),
    "hot spot: wrong, in no figure; its window (every pass of this system)",
  );
  assert.deepEqual(notedOf({ lanes: [{}], not_recorded: undefined } as never), []);
});
