import assert from "node:assert/strict";
import { test } from "node:test";
import type { Shapes } from "../src/api/client";
import { energyWords, priceWords } from "../src/marks/words";
import { measureOf } from "../src/sheets/matrix/axes";
import { EconomyCellView } from "../src/sheets/matrix/EconomyCellView";
import { economy } from "../src/sheets/matrix/lenses/economy";
import { columnOf, markup, matrixOf, namesIn, reviewOf, textOf } from "./fixtures";

const CELL: Shapes["EconomyCell"] = {
  n: 3,
  mean_w: 20,
  over_idle_w: null,
  energy_j: 1200,
  per_watt: 4.28,
  better: 37.7,
  better_low: 36.4,
  better_high: 39.1,
  told: "+37.7 %",
  interval: "+36.4 to +39.1 %",
  verdict: "ahead",
  why_not: "",
};
const ROW: Shapes["EconomyRow"] = {
  test: 1,
  source: "power",
  source_words: "package",
  sources: [],
  per_unit: "fps/W",
  is_time: false,
  cells: {},
  why_not: "",
};

function cell(more: Partial<Shapes["EconomyCell"]>, row: Partial<Shapes["EconomyRow"]> = {}): string {
  return markup(
    <EconomyCellView row={{ ...ROW, ...row }} cell={{ ...CELL, ...more }} margin={3} reach={50} />,
  );
}

test("a cell tells watts by their source, energy, work per watt, and how it compares", () => {
  const said = textOf(cell({}));
  assert.equal(said, "20.0 W package · 0.333 Wh 4.28 fps/W +37.7 % ahead +36.4 to +39.1 %");
});

test("the baseline has no mark, and idle is told only where it is known", () => {
  const base = { better: null, better_low: null, better_high: null, told: "", interval: "", verdict: "" };
  assert.ok(!cell(base).includes("<svg"));
  assert.ok(cell({}).includes("<svg"));
  assert.ok(!textOf(cell({})).includes("over idle"));
  assert.ok(textOf(cell({ over_idle_w: 12.5 })).includes("12.5 W over idle"));
});

test("what is missing is said with what the cell or the row knows of it", () => {
  const none = {
    mean_w: null,
    energy_j: null,
    per_watt: null,
    better: null,
    verdict: "",
    told: "",
    interval: "",
  };
  assert.ok(textOf(cell({ ...none, why_not: "no power was recorded" })).includes("no power was recorded"));
  const said = textOf(cell(none, { source_words: "", why_not: "choose a source" }));
  assert.ok(said.startsWith("no power"));
  assert.ok(said.endsWith("choose a source"));
});

test("the head tells a price with its basis and day, or what has none", () => {
  const { Head } = economy;
  assert.ok(Head);
  const price = { basis: "street", total: 551, on: "2026-01-15", parts: [], missing: [], words: "" };
  const head = (own: object) =>
    textOf(
      markup(<Head column={columnOf(2)} />, { matrix: matrixOf({ prices: { 2: { ...price, ...own } } }) }),
    );
  assert.equal(head({}), "551 € street, since 2026-01-15");
  assert.equal(head({ total: null, words: "no street price of kit 2" }), "no street price of kit 2");
  assert.equal(textOf(markup(<Head column={columnOf(1)} />, { matrix: matrixOf() })), "");
});

test("the legend names the baseline by its seal and words", () => {
  const { Legend } = economy;
  const html = markup(<Legend />, { review: reviewOf(), matrix: matrixOf() });
  assert.match(textOf(html), /^work per watt against .*kit 1 · better to the right$/);
  assert.ok(namesIn(html).some((name) => name.includes("kit 1, the baseline")));
});

test("its marks have an axis of their own, which shows the most of them in full", () => {
  const rows = [{ ...ROW, cells: { 1: { ...CELL, better: null }, 2: CELL } }];
  const measure = measureOf(matrixOf({ economy: rows }));
  assert.ok(measure.economyReach >= 39.1);
  assert.ok(measure.reach < measure.economyReach);
  assert.equal(measureOf(matrixOf()).economyReach, measureOf(matrixOf()).reach);
});

test("energy and prices are written in the unit that fits", () => {
  assert.deepEqual(
    [energyWords(12), energyWords(3600), energyWords(3.6e6 * 2)],
    ["12.0 J", "1.00 Wh", "2.00 kWh"],
  );
  assert.deepEqual([priceWords(551.4), priceWords(12), priceWords(12.5)], ["551 €", "12 €", "12.50 €"]);
});
