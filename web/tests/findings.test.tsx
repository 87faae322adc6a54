import assert from "node:assert/strict";
import { test } from "node:test";
import { BandsChart, ratioTicks } from "../src/marks/BandsChart";
import { spanOf } from "../src/marks/chart/scales";
import { CurvesChart, endsOf } from "../src/marks/CurvesChart";
import { ExtentsChart } from "../src/marks/ExtentsChart";
import { choiceOf } from "../src/sheets/findings/DrawAnother";
import { cellsAddress, Drawn } from "../src/sheets/findings/Drawn";
import { listed } from "../src/sheets/findings/listed";
import { BAND, FINDING, PIN, PINS } from "./finding_fixtures";
import { markup, namesIn, textOf } from "./fixtures";

const CURVES = {
  x: { label: "power limit", unit: "", log: false, zero: false, names: [] },
  y: { label: "of the best level", unit: "%", log: false, zero: false, names: [] },
  curves: [
    {
      label: "tour",
      column: 0,
      points: [
        { x: 20, y: 90, low: 89, high: 91, told: "20 W: 90 % of the best", column: 2 },
        { x: 35, y: 100, low: 99, high: 101, told: "35 W: 100 % of the best", column: 1 },
      ],
      marks: true,
      joined: true,
    },
  ],
  rules: [{ across: "x", at: 35, words: "enough" }],
  shaded: [97, 103],
  caption: "More is better.",
};

test("a narrow axis is named in per cent, a wide one in multiples, and the baseline is on it", () => {
  assert.deepEqual(
    ratioTicks(0.84, 1.04).map((one) => one.words),
    ["85 %", "90 %", "95 %", "100 %"],
  );
  assert.deepEqual(
    ratioTicks(0.3, 8).map((one) => one.words),
    ["0.5 ×", "1 ×", "2 ×", "5 ×"],
  );
});

test("a wide axis with few round multiples names those between them", () => {
  assert.deepEqual(
    ratioTicks(0.95, 2.1).map((one) => one.words),
    ["1 ×", "1.2 ×", "1.5 ×", "2 ×"],
  );
});

test("of many changes the one that is spoken of is always drawn", () => {
  const many = Array.from({ length: 20 }, (_, at) => ({ ...BAND, column: at + 1, label: `kit ${at + 1}` }));
  const said = textOf(markup(<BandsChart bands={many} margin={3} label="20 kits" caption="" chosen={20} />));
  assert.ok(said.includes("kit 20"));
  assert.ok(!said.includes("kit 19"));
  assert.ok(said.includes("Show all 20"));
});

test("a chart of changes says in its name and its table what it draws", () => {
  const html = markup(
    <BandsChart
      bands={[BAND]}
      margin={3}
      label={FINDING.sentence}
      caption="Better is to the right."
      table={{ columns: FINDING.heads, rows: FINDING.lines }}
    />,
  );
  assert.ok(namesIn(html).includes(FINDING.sentence));
  assert.ok(textOf(html).includes("Better is to the right."));
  assert.ok(textOf(html).includes("tour −20.0 %"));
});

test("a finding says what is left out, what is to be kept in mind, and what it rests on", () => {
  const said = textOf(markup(<Drawn finding={FINDING} pins={PINS} />));
  assert.ok(said.includes("Beside it: Loom: held at one rate."));
  assert.ok(said.includes("fan profile differs"));
  assert.ok(said.includes("8 cells of 2 tests , method 4 ."));
});

test("no more cells are opened at once than the matrix lays over one another", () => {
  const address = cellsAddress(1, FINDING);
  assert.equal(address.split("cells=")[1]?.split(",").length, 6);
  assert.ok(address.startsWith("/reviews/1/matrix?lens=versus&cells=1.average_fps.1,"));
  assert.equal(cellsAddress(1, { cells: [] }), "/reviews/1/matrix?lens=versus");
});

test("a curve is named where it ends, its levels stand under it, and a cut axis says so", () => {
  const html = markup(
    <CurvesChart curves={CURVES} label="28 W is enough" positionOf={(column) => column - 1} />,
  );
  const said = textOf(html);
  assert.ok(said.includes("tour"));
  assert.ok(said.includes("20"));
  assert.ok(said.includes("enough"));
  assert.ok(said.includes("does not begin at 0"));
  assert.ok(namesIn(html).includes("28 W is enough"));
});

test("an axis takes intervals in as far as they leave what was found readable", () => {
  assert.deepEqual(spanOf([95, 105], [90, 110]), [90, 110]);
  assert.deepEqual(spanOf([95, 105], [90, 1e30]), [90, 120]);
  assert.deepEqual(spanOf([50], [10, 400]), [10, 400]);
  const [low, high] = spanOf([1, 2], [0, 1e9], true);
  assert.ok(Math.abs(low - 1) < 1e-9);
  assert.ok(Math.abs(high - 2 ** 2.5) < 1e-9);
});

test("an interval that goes on beyond the axis ends in an arrow, and the caption says so", () => {
  const wide = { ...BAND, better: -2, low: -99, high: 1e28, interval: "−99.0 to over +1 million %" };
  const plain = markup(<BandsChart bands={[BAND]} margin={3} label="28 W" caption="Better is right." />);
  const cut = markup(<BandsChart bands={[BAND, wide]} margin={3} label="28 W" caption="Better is right." />);
  assert.ok(!textOf(plain).includes("goes on beyond the axis"));
  assert.ok(textOf(cut).includes("goes on beyond the axis"));
  assert.ok(cut.split("L").length - plain.split("L").length >= 4);
  assert.ok(!/NaN|e\+2/.test(cut));
  const curves = { ...CURVES, curves: CURVES.curves.map((curve) => ({ ...curve })) };
  const [first] = curves.curves;
  assert.ok(first);
  first.points = first.points.map((point) => ({ ...point, low: point.y - 1, high: 1e30 }));
  const drawn = markup(<CurvesChart curves={curves} label="28 W" positionOf={() => 0} />);
  assert.ok(textOf(drawn).includes("goes on beyond the axis"));
  assert.ok(!/NaN|e\+/.test(drawn));
});

test("names at the ends of curves are moved apart where they would lie over one another", () => {
  const same = {
    label: "tour",
    column: 0,
    joined: true,
    marks: true,
    points: [{ x: 1, y: 5, low: null, high: null, told: "", column: 0 }],
  };
  const identity = Object.assign((value: number) => value, { ticks: [], ends: [0, 10] as [number, number] });
  const ends = endsOf([same, { ...same, label: "walk" }], identity, identity);
  assert.equal(ends.length, 2);
  const [first = { y: 0 }, second = { y: 0 }] = ends;
  assert.ok(second.y - first.y >= 13);
});

test("rows on one axis tell their marks by words, and many are folded", () => {
  const row = {
    column: 1,
    label: "walk",
    value: 6,
    low: null,
    high: null,
    told: "6 GB at the peak",
    marks: [],
  };
  const extents = {
    axis: { label: "memory used", unit: "GB", zero: true, log: false, names: [] },
    rows: Array.from({ length: 30 }, () => row),
    rules: [{ across: "x", at: 7.2, words: "needed" }],
    caption: "Bars from 0.",
  };
  const said = textOf(markup(<ExtentsChart extents={extents} label="6 GB" positionOf={() => 0} />));
  assert.ok(said.includes("needed"));
  assert.ok(said.includes("Show all 30 rows"));
  assert.equal(said.split("walk").length - 1, 20);
  assert.ok(!said.includes("goes on beyond the axis"));
  const wide = { ...extents, rows: [row, { ...row, low: -1e30, high: 1e30 }] };
  const cut = markup(<ExtentsChart extents={wide} label="6 GB" positionOf={() => 0} />);
  assert.ok(textOf(cut).includes("Bars from 0. An arrow: the interval goes on beyond the axis."));
  assert.ok(!/NaN|e\+/.test(cut));
});

test("in the list of all, pinned ones come first and so many of a kind are shown", () => {
  const many = Array.from({ length: 8 }, (_, at) => ({ ...FINDING, key: `overall-${at}` }));
  const { shown, folded } = listed([...many, { ...FINDING, key: "pinned", pin: PIN }], true, "overall-7");
  assert.equal(shown[0]?.key, "pinned");
  assert.deepEqual(
    shown.slice(1).map((one) => one.key),
    ["overall-0", "overall-1", "overall-2", "overall-3", "overall-4", "overall-7"],
  );
  assert.deepEqual(folded, [["overall", "over all tests", 2]]);
  assert.equal(listed(many, false, "").shown.length, 8);
});

test("what was chosen is sent without what was left as proposed", () => {
  const form = new FormData();
  for (const [name, value] of [
    ["role", "lows"],
    ["baseline", ""],
    ["tests", "1"],
    ["idle_off", "on"],
  ] as const) {
    form.append(name, value);
  }
  const offers = new Set(["role", "baseline", "without"]);
  assert.deepEqual(choiceOf(form, offers, [1, 2]), { role: "lows", without: [2] });
});
