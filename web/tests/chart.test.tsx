import assert from "node:assert/strict";
import { test } from "node:test";
import { renderToStaticMarkup } from "react-dom/server";
import { XAxis, YAxis } from "../src/marks/chart/Axis";
import { Chart, nearest, nextPoint, type ChartPoint } from "../src/marks/chart/Chart";
import { Legend } from "../src/marks/chart/Legend";
import { linear, logarithmic } from "../src/marks/chart/scales";
import { Distribution } from "../src/marks/Distribution";
import { PassScale } from "../src/marks/PassScale";
import { namesIn, textOf } from "./fixtures";

test("an even axis goes from its least to its greatest value, whichever way it is drawn", () => {
  const up = linear([0, 4, 10], [200, 0]);
  assert.deepEqual([up(0), up(5), up(10)], [200, 100, 0]);
  assert.deepEqual(up.ends, [0, 10]);
  assert.ok(up.ticks.every((value) => value >= 0 && value <= 10));
  assert.ok(up.ticks.length >= 3 && up.ticks.length <= 7);
});

test("a single value stands in the middle of its axis", () => {
  assert.equal(linear([60], [0, 100])(60), 50);
  assert.equal(linear([0], [0, 100])(0), 50);
  assert.ok(Math.abs(logarithmic([8], [0, 100])(8) - 50) < 1e-9);
});

test("equal ratios are equally far apart on an axis of ratios", () => {
  const scale = logarithmic([0.001, 1], [300, 0]);
  const steps = [1, 0.1, 0.01, 0.001].map((value) => Math.round(scale(value)));
  assert.deepEqual(steps, [0, 100, 200, 300]);
});

test("values that cannot stand on an axis of ratios do not move it", () => {
  assert.deepEqual(logarithmic([0, -3, 1, 10], [0, 1]).ends, [1, 10]);
});

test("an axis names its round values with their unit, and draws lines only where they are wanted", () => {
  const scale = linear([0, 40], [200, 0]);
  const drawn = (lines: "grid" | "strokes" | "none") =>
    renderToStaticMarkup(<YAxis scale={scale} unit="ms" at={50} across={[50, 700]} lines={lines} />);
  assert.ok(textOf(drawn("grid")).includes("20 ms"));
  assert.match(drawn("grid"), /x1="50" x2="700"/);
  assert.match(drawn("strokes"), /x1="46" x2="50"/);
  assert.doesNotMatch(drawn("none"), /<line/);
});

test("a tick that the eye should find is dashed", () => {
  const ticks = [
    { value: 1, words: "one" },
    { value: 2, words: "two", strong: true },
  ];
  const html = renderToStaticMarkup(
    <XAxis scale={linear([0, 3], [0, 90])} ticks={ticks} at={100} across={[0, 100]} />,
  );
  assert.equal(html.match(/stroke-dasharray/g)?.length, 1);
  assert.match(html, /x="30"[^>]*>one/);
});

const POINTS: ChartPoint[] = [
  { key: "a", x: 10, y: 10, words: "first" },
  { key: "b", x: 30, y: 10, words: "second" },
  { key: "c", x: 50, y: 40, words: "third" },
];

test("arrows go from point to point and stop at the ends", () => {
  assert.equal(nextPoint("ArrowRight", null, 3), 0);
  assert.equal(nextPoint("ArrowRight", 1, 3), 2);
  assert.equal(nextPoint("ArrowRight", 2, 3), 2);
  assert.equal(nextPoint("ArrowLeft", null, 3), 2);
  assert.equal(nextPoint("ArrowUp", 0, 3), 0);
  assert.deepEqual([nextPoint("Home", 2, 3), nextPoint("End", 0, 3)], [0, 2]);
});

test("Escape lets a point go, and is left to others where there is none", () => {
  assert.equal(nextPoint("Escape", 1, 3), null);
  assert.equal(nextPoint("Escape", null, 3), undefined);
  assert.equal(nextPoint("x", 1, 3), undefined);
  assert.equal(nextPoint("ArrowRight", null, 0), undefined);
});

test("the pointer finds the nearest point, and none that is far", () => {
  assert.equal(nearest(POINTS, 12, 11, 14), 0);
  assert.equal(nearest(POINTS, 21, 10, 14), 1);
  assert.equal(nearest(POINTS, 200, 200, 14), null);
  assert.equal(nearest([], 0, 0, 14), null);
});

test("a chart has a name, is in the tab order where it has points, and says the same as a table", () => {
  const table = { columns: ["pass", "fps"], rows: [["first", 60.1]] as (string | number)[][] };
  const html = renderToStaticMarkup(
    <Chart label="Frame rates" width={100} height={50} points={POINTS} caption="by pass" table={table}>
      <rect />
    </Chart>,
  );
  assert.ok(namesIn(html).includes("Frame rates"));
  assert.match(html, /tabindex="0"/i);
  assert.match(html, /role="status"/);
  assert.ok(textOf(html).includes("by pass as a table pass fps first 60.1"));
});

test("a chart without points is no stop for the keyboard and promises no words", () => {
  const html = renderToStaticMarkup(
    <Chart label="Empty" width={100} height={50}>
      <rect />
    </Chart>,
  );
  assert.doesNotMatch(html, /tabindex/i);
  assert.doesNotMatch(html, /role="status"/);
});

test("a legend tells lines of one configuration apart by their dash", () => {
  const html = renderToStaticMarkup(
    <Legend
      entries={[
        { key: "a", position: 0, label: "one kit, pass 1" },
        { key: "b", position: 0, label: "one kit, pass 2", layer: 1 },
      ]}
    />,
  );
  assert.ok(textOf(html).includes("A one kit, pass 1 A one kit, pass 2"));
  assert.match(html, /stroke-dasharray="5 3"/);
});

const SHAPE = {
  frames: 12_000,
  median_ms: 16.1,
  share_slower: [1, 0.5, 0.01, 0.001],
  curve_ms: [12, 16, 22, 40],
  edges_ms: [0, 10, 20, 40],
  counts: [100, 11_000, 900],
  low_1pct_ms: 23.5,
  low_1pct_thin: false,
  low_01pct_ms: 41,
  low_01pct_thin: true,
};

function distributed(key: string, more: object = {}) {
  return { key, position: 0, label: "one kit", number: 1, layer: 0, shape: SHAPE as never, ...more };
}

test("a distribution says its median, its lows and which of them are thin, also to those who do not see it", () => {
  const html = renderToStaticMarkup(
    <Distribution passes={[distributed("a")]} lowWords="mean of the slowest" />,
  );
  assert.ok(namesIn(html)[0]?.includes("one kit, pass 1: half of 12000 frames under 16.1 ms"));
  const said = textOf(html);
  assert.ok(said.includes("mean of the slowest, hollow where the tail is thin"));
  assert.ok(said.includes("one kit 1 12000 16.1 23.5 41.0, thin"), said);
});

test("several passes have a legend, one has none", () => {
  const one = renderToStaticMarkup(<Distribution passes={[distributed("a")]} lowWords="x" />);
  const two = renderToStaticMarkup(
    <Distribution passes={[distributed("a"), distributed("b", { number: 2, layer: 1 })]} lowWords="x" />,
  );
  assert.ok(!namesIn(one).includes("Legend"));
  assert.ok(namesIn(two).includes("Legend"));
});

test("a tail that is not opened so far names no share beyond it", () => {
  const short = { ...SHAPE, share_slower: [1, 0.5, 0.01], curve_ms: [12, 16, 22] };
  const said = textOf(
    renderToStaticMarkup(<Distribution passes={[distributed("a", { shape: short })]} lowWords="x" />),
  );
  assert.ok(said.includes("1 % slower") && !said.includes("0.1 % slower"));
});

test("passes stand on one scale with their centre, and one that is set aside says so", () => {
  const lane = {
    position: 0,
    label: "one kit",
    passes: [
      { id: "a", number: 1, value: 60, aside: false },
      { id: "b", number: 2, value: 50, aside: true },
    ],
    centre: 60,
    low: 59,
    high: 61,
  };
  const html = renderToStaticMarkup(
    <PassScale lanes={[lane]} unit="fps" label="average" chosen={["a"]} onChoose={() => undefined} />,
  );
  assert.match(html, /<title>one kit, pass 2: 50.00 fps, set aside<\/title>/);
  const [first, second] = [...html.matchAll(/cx="([\d.]+)"/g)].map((found) => Number(found[1]));
  assert.ok((first ?? 0) > (second ?? 0), "more stands to the right");
  assert.equal(
    renderToStaticMarkup(
      <PassScale lanes={[]} unit="fps" label="x" chosen={[]} onChoose={() => undefined} />,
    ),
    "",
  );
});
