import assert from "node:assert/strict";
import { test } from "node:test";
import { renderToStaticMarkup } from "react-dom/server";
import { Bands } from "../src/marks/Bands";
import { Ladder } from "../src/marks/Ladder";
import { dashOf, moved, valueAt } from "../src/marks/overlay";
import { Pip, PipLegend, Pips, type PipState } from "../src/marks/Pips";
import { Seal, sealInk, sealLetter } from "../src/marks/Seal";
import { Tail } from "../src/marks/Tail";
import { reachOf, VersusMark } from "../src/marks/VersusMark";
import { namesIn, textOf } from "./fixtures";

const STATES: PipState[] = ["kept", "owed", "running", "flagged", "failed", "set_aside", "blocked"];

test("every state of a pass has a drawing of its own and a name, so that colour alone says nothing", () => {
  const drawings = STATES.map((state) => renderToStaticMarkup(<Pip state={state} />));
  const shapes = drawings.map((html) =>
    html.replace(/aria-label="[^"]*"/, "").replace(/var\(--[\w-]+\)/g, "ink"),
  );
  assert.equal(new Set(shapes).size, STATES.length);
  assert.equal(new Set(drawings.flatMap(namesIn)).size, STATES.length);
  for (const html of drawings) assert.match(html, /<(circle|path|rect)/);
});

test("the legend names each state that it draws", () => {
  const html = renderToStaticMarkup(<PipLegend />);
  for (const name of namesIn(html)) assert.ok(textOf(html).includes(name), name);
});

test("pips stand in the order of the passes, with their words", () => {
  const pips = [
    { key: "a", state: "kept" as const, words: "pass 1: kept" },
    { key: "b", state: "failed" as const, words: "pass 2: crashed" },
  ];
  assert.deepEqual(namesIn(renderToStaticMarkup(<Pips pips={pips} />)), ["pass 1: kept", "pass 2: crashed"]);
});

test("seals are told apart by letter and by shape, and eight inks come round again", () => {
  const shapes = Array.from({ length: 8 }, (_, at) => {
    const html = renderToStaticMarkup(<Seal position={at} label="x" />);
    return html.match(/<path d="([^"]+)"/)?.[1];
  });
  assert.equal(new Set(shapes).size, 8);
  assert.deepEqual([sealLetter(0), sealLetter(25), sealLetter(26), sealLetter(27)], ["A", "Z", "AA", "AB"]);
  assert.equal(sealInk(8), sealInk(0));
});

test("the baseline's seal says that it is the baseline, and wears a ring", () => {
  const [plain, baseline] = [false, true].map((on) =>
    renderToStaticMarkup(<Seal position={1} label="thin kit" baseline={on} />),
  );
  assert.deepEqual(namesIn(plain ?? ""), ["B, thin kit"]);
  assert.deepEqual(namesIn(baseline ?? ""), ["B, thin kit, the baseline"]);
  assert.ok(baseline?.includes("<rect") && !plain?.includes("<rect"));
});

function versus(effect: number, verdict: string, more: object = {}): string {
  return renderToStaticMarkup(
    <VersusMark
      effect={effect}
      low={effect - 1}
      high={effect + 1}
      verdict={verdict}
      margin={3}
      reach={20}
      {...more}
    />,
  );
}

test("each verdict has a point of its own shape", () => {
  assert.match(versus(0, "level"), /<rect[^>]*width="10"/);
  assert.match(versus(0, "undecided"), /<circle/);
  assert.match(versus(0, "undecided"), /stroke-dasharray/);
  assert.match(versus(0, "noise unknown"), /<circle/);
  const tips = ["ahead", "behind"].map((verdict) =>
    Number(versus(0, verdict).match(/<path d="M([\d.]+)/)?.[1]),
  );
  assert.ok((tips[0] ?? 0) > 65 && (tips[1] ?? 0) < 65, "an arrowhead points to the better side");
});

test("what lies beyond the axis is drawn at its edge and said to lie beyond it", () => {
  const strokes = /v14M/;
  assert.match(versus(40, "ahead"), strokes);
  assert.match(versus(-40, "behind"), strokes);
  assert.doesNotMatch(versus(19, "ahead"), strokes);
  assert.ok(versus(40, "ahead").includes("M129"), "the whole arrowhead stands within 130");
  assert.ok(versus(-40, "behind").includes("M1 "), "and at the other end");
});

test("without an interval there is no bar", () => {
  const bars = (html: string) => html.match(/<line/g)?.length;
  assert.equal(bars(versus(5, "noise unknown", { low: null, high: null })), 1);
  assert.equal(bars(versus(5, "ahead")), 2);
});

test("the axis is a round number of at least four margins that shows most effects in full", () => {
  assert.equal(reachOf([], 3), 15);
  assert.equal(reachOf([8, 9, 10], 1), 10);
  assert.equal(reachOf([1, 1, 1, 1, 1, 1, 400], 1), 4);
  assert.ok(reachOf([50, 60, 70], 3) >= 60);
});

test("a tail is drawn as far as its lows are known", () => {
  const tail = (onePercent: number | null, tenthPercent: number | null, low: number | null = 59) =>
    renderToStaticMarkup(
      <Tail {...{ average: 60, low, high: low && 61, onePercent, tenthPercent, top: 61, ink: "ink" }} />,
    );
  assert.doesNotMatch(tail(null, null), /<path/);
  assert.match(tail(45, null), /<path/);
  assert.match(tail(null, null, null), /<circle/);
  assert.doesNotMatch(tail(45, 30), /<circle/);
});

const ATTEMPT = { position: 0, load: 8, words: "8 cameras", holds: true, hot: false };
const SEARCH = {
  attempts: [ATTEMPT, { ...ATTEMPT, position: 1, load: 12, words: "12 cameras", holds: false, hot: true }],
  next: { load: 10 },
  cold: { held: 8, broken: 12, words: "8 cameras held, 12 broke" },
  unstable: null,
  rungs: [],
};

test("a ladder tells its bracket, each attempt with its end, and the load that is next", () => {
  const html = renderToStaticMarkup(<Ladder search={SEARCH as never} />);
  assert.deepEqual(namesIn(html), ["Attempts of the search: 8 cameras held, 12 broke"]);
  assert.match(html, /<title>8 cameras: holds<\/title>/);
  assert.match(html, /<title>12 cameras, hot: breaks<\/title>/);
  assert.match(html, /10\?/);
});

test("a ladder of rungs names them on its axis, and one without attempts is not drawn", () => {
  const rungs = renderToStaticMarkup(<Ladder search={{ ...SEARCH, rungs: ["low", "high"] } as never} />);
  assert.match(rungs, /low/);
  assert.equal(
    renderToStaticMarkup(<Ladder search={{ ...SEARCH, attempts: [], next: null } as never} />),
    "",
  );
});

test("bands carry what they say as a name", () => {
  const bands = [{ kind: "graphics", from: 0, to: 1, words: "graphics: 100 %" }];
  const html = renderToStaticMarkup(
    <Bands bands={bands} from={0} to={1} height={9} wordless label="graphics 100 %" />,
  );
  assert.ok(namesIn(html).includes("graphics 100 %"));
});

const TRACE = {
  duration_s: 10,
  counts_from_s: 1,
  counts_to_s: 9,
  t_s: [0, 5],
  hitches_s: [4],
  lanes: [{ name: "clock", t_s: [0, 1] }],
  bands: [{ from_s: 0, to_s: 2 }],
};

test("a trace that is moved moves with its cuts, hitches, sensors and bands", () => {
  const by = moved(TRACE as never, 2);
  assert.deepEqual(
    [by.duration_s, by.counts_from_s, by.counts_to_s, by.t_s, by.hitches_s, by.lanes[0]?.t_s, by.bands?.[0]],
    [12, 3, 11, [2, 7], [6], [2, 3], { from_s: 2, to_s: 4 }],
  );
  assert.equal(moved(TRACE as never, 0), TRACE);
  assert.deepEqual(TRACE.t_s, [0, 5]);
});

test("the value at a moment is that of the last point before it", () => {
  const [t, v] = [
    [1, 2, 4],
    [10, null, 40],
  ];
  assert.deepEqual(
    [0.5, 1, 1.9, 2, 3, 4, 99].map((at) => valueAt(t, v, at)),
    [null, 10, 10, null, null, 40, 40],
  );
  assert.equal(valueAt([], [], 1), null);
});

test("layers have dashes, and the first has none", () => {
  assert.deepEqual(dashOf(0), []);
  assert.notDeepEqual(dashOf(1), dashOf(2));
  assert.deepEqual(dashOf(5), dashOf(0));
});
