import assert from "node:assert/strict";
import { test } from "node:test";
import { measureOf } from "../src/sheets/matrix/axes";
import { hasCorrection, withoutRecorder } from "../src/sheets/matrix/evidence/corrected";
import { FiguresCell } from "../src/sheets/matrix/FiguresCell";
import { FlagLine, flagsOf } from "../src/sheets/matrix/FlagLine";
import { laidOut, LimitsCellView, percent, shareWords } from "../src/sheets/matrix/LimitsCellView";
import { Apart, Missing } from "../src/sheets/matrix/Missing";
import { TargetLine } from "../src/sheets/matrix/TargetLine";
import { ProgressCellView, runningWords } from "../src/sheets/matrix/ProgressCellView";
import { VersusCell } from "../src/sheets/matrix/VersusCell";
import {
  cellOf,
  columnOf,
  comparisonOf,
  markup,
  matrixOf,
  namesIn,
  progressOf,
  reviewOf,
  rowOf,
  textOf,
} from "./fixtures";

const ROW = rowOf({});

function versus(cell: ReturnType<typeof cellOf>, isBaseline = false, row = ROW): string {
  return textOf(markup(<VersusCell row={row} cell={cell} reach={20} isBaseline={isBaseline} />));
}

test("the baseline shows its figure with interval and count, the others their change", () => {
  assert.equal(versus(cellOf(60), true), "60.0 fps ± 1.0 % · 3 passes");
  assert.equal(
    versus(cellOf(66, { comparison: comparisonOf(10, { told: "+10.0 %", interval: "+9.0 to +11.0 %" }) })),
    "+10.0 % ahead +9.0 to +11.0 %",
  );
});

test("a single pass of the baseline claims no interval", () => {
  assert.equal(versus(cellOf(60, { n: 1, half_pct: null }), true), "60.0 fps 1 pass");
});

test("a baseline that is held says so", () => {
  assert.ok(versus(cellOf(60, { held_fps: 60 }), true).endsWith("held at 60"));
});

test("a cell without a comparison says why and keeps its figure", () => {
  const cell = cellOf(60, { why_not: "held at 60: shows nothing", why_not_code: "held_at" });
  assert.equal(versus(cell), "60.0 fps held at 60: shows nothing");
});

test("what has no margin differs by so much and is neither ahead nor behind", () => {
  const cell = cellOf(5, { comparison: comparisonOf(2, { verdict: "no margin", told: "+2.00 V" }) });
  const said = versus(cell, false, rowOf({}, { margin: null, scale: "difference", unit: "V" }));
  assert.ok(said.includes("differs by"));
  assert.ok(!said.includes("ahead"));
});

test("only ratios with a margin have a mark on the common axis", () => {
  const cell = cellOf(5, { comparison: comparisonOf(2) });
  const html = (row: typeof ROW) =>
    markup(<VersusCell row={row} cell={cell} reach={20} isBaseline={false} />);
  assert.match(html(ROW), /<svg/);
  assert.doesNotMatch(html(rowOf({}, { scale: "difference" })), /<svg/);
});

function figures(cell: ReturnType<typeof cellOf>, row = ROW): string {
  return textOf(markup(<FiguresCell row={row} cell={cell} position={0} top={61} />));
}

test("a figure has its interval in per cent, or from and to where only differences make sense", () => {
  assert.equal(figures(cellOf(60)), "60.0 fps ± 1.0 % · 3 passes");
  const warm = cellOf(61, { low: 60, high: 62 });
  assert.equal(
    figures(warm, rowOf({}, { scale: "difference", unit: "°C" })),
    "61.0 °C 60.0 to 62.0 · 3 passes",
  );
  assert.ok(figures(cellOf(60, { n: 1 })).includes("spread unknown"));
});

test("a reading tells how it was taken and how exact it is", () => {
  assert.ok(figures(cellOf(60, { methods: ["stopwatch"], half_width: 0.2 })).endsWith("stopwatch ± 0.20"));
});

test("lows stand under the average, thin ones and missing ones by name", () => {
  const tail = { low_1pct: 45, low_1pct_thin: false, low_01pct: 30, low_01pct_thin: true, evenness: null };
  assert.ok(figures(cellOf(60, { tail })).includes("1 % 45.0 · 0.1 % 30.0 thin"));
  const none = { ...tail, low_01pct: null };
  assert.ok(figures(cellOf(60, { tail: none })).includes("0.1 % none"));
});

const LIMITS = {
  called: "graphics",
  words: "limited by the graphics",
  shares: [
    { kind: "graphics", share: 0.7, evidence: "graphics use 98 %" },
    { kind: "one thread", share: 0.3, evidence: "" },
  ],
  also: [],
  missing: [],
  passes: 3,
  drop: null,
  heat: null,
  memory: [],
  collapse: null,
  notes: [] as string[],
  sentences: [] as string[],
};

test("shares are laid side by side from 0 to 1 and told in words", () => {
  assert.deepEqual(
    laidOut(LIMITS).map(({ from, to }) => [from, to]),
    [
      [0, 0.7],
      [0.7, 1],
    ],
  );
  assert.equal(shareWords(LIMITS), "graphics 70 %, one thread 30 %");
  assert.deepEqual(
    [percent(0), percent(0.004), percent(0.01), percent(1)],
    ["0 %", "under 1 %", "1 %", "100 %"],
  );
});

test("a limit that hides a difference is flagged, with why", () => {
  const html = markup(<LimitsCellView cell={LIMITS} masked="the factor acts on memory" />);
  assert.ok(textOf(html).includes("⚑ hides a difference"));
  assert.ok(html.includes('title="the factor acts on memory"'));
  assert.ok(!textOf(markup(<LimitsCellView cell={LIMITS} masked={undefined} />)).includes("⚑"));
});

test("what is missing is said only where nothing else is to be said", () => {
  const bare = { ...LIMITS, missing: ["clock"] };
  assert.ok(textOf(markup(<LimitsCellView cell={bare} masked={undefined} />)).includes("no sensor: clock"));
  const hot = { ...bare, notes: ["drops at 36 s by heat", "peak 91.2 °C at 2 min"] };
  const said = textOf(markup(<LimitsCellView cell={hot} masked={undefined} />));
  assert.ok(said.includes("drops at 36 s by heat · peak 91.2 °C at 2 min") && !said.includes("no sensor"));
});

test("a cell of Progress names every pass, what runs and what is owed", () => {
  const cell = progressOf({
    pips: [
      { pass_id: "a", number: 1, state: "kept", words: "kept" },
      { pass_id: "b", number: 2, state: "blocked", words: "not averaged: another driver" },
    ],
    owed: 2,
    running: [{ entry: 9, number: 3, progress: {}, stop_wanted: false, told_at: null, by_hand: "Ada" }],
  });
  assert.deepEqual(namesIn(markup(<ProgressCellView cell={cell} />)), [
    "pass 1: kept",
    "pass 2: not averaged: another driver",
    "pass 3: running",
    "owed",
    "owed",
  ]);
  assert.equal(textOf(markup(<ProgressCellView cell={undefined} />)), "not asked for");
});

test("what failed stays beside what is owed", () => {
  const pips = [{ pass_id: "a", number: 1, state: "failed", words: "crashed (driver reset)" }];
  assert.ok(textOf(markup(<ProgressCellView cell={progressOf({ pips, owed: 1 })} />)).includes("crashed"));
});

test("only the last dozen pips are drawn, and the others are counted", () => {
  const pips = Array.from({ length: 15 }, (_, at) => ({
    pass_id: String(at),
    number: at + 1,
    state: "kept",
    words: "kept",
  }));
  const html = markup(<ProgressCellView cell={progressOf({ pips })} />);
  assert.equal(namesIn(html).length, 12);
  assert.ok(textOf(html).startsWith("3 +"));
});

test("a bench that is silent is not said to have time left", () => {
  const ago = (seconds: number) => new Date(Date.now() - 1000 * seconds).toISOString();
  const progress = { phase: "running", left_s: 40 };
  assert.equal(runningWords({ progress, told_at: ago(2) }, false), "running · 40 s left");
  assert.match(runningWords({ progress, told_at: ago(60) }, false), /^last heard 60 s ago$/);
  assert.equal(runningWords({ progress, told_at: ago(60), by_hand: "Ada" }, false), "running · 40 s left");
  assert.equal(runningWords({ progress: {} }, true), "stopping");
  assert.equal(runningWords({ progress: {} }, false), "starting");
});

const LINE = { test: 1 };

test("a missing figure says the reason that is nearest: a reading apart, a gap, what the docket says, not run", () => {
  const apart = rowOf({}, { apart: { 2: [{ number: 1, value: 45, bound: "about", method: "meter" }] } });
  const gap = rowOf({}, { gaps: { 2: "shown but not noted" } });
  const matrix = matrixOf({
    progress: [{ test: 1, cells: { 2: progressOf({ said: "crashed · 2 owed" }) }, uneven: false }],
  });
  const said = (row: typeof ROW | undefined, column = 2) =>
    textOf(markup(<Missing row={row} line={LINE} column={column} />, { matrix }));
  assert.equal(said(apart), "apart: about 45.0 fps");
  assert.equal(said(gap), "shown but not noted");
  assert.equal(said(ROW), "crashed · 2 owed");
  assert.equal(said(ROW, 1), "not run");
});

test("a cell whose configuration cannot be built says so, unless something was run there before", () => {
  const review = reviewOf({ columns: [columnOf(1), columnOf(2, { blocked: "the card is too long" })] });
  const pips = [{ pass_id: "a", number: 1, state: "failed", words: "crashed" }];
  const ran = matrixOf({
    progress: [{ test: 1, cells: { 2: progressOf({ pips, said: "crashed" }) }, uneven: false }],
  });
  const said = (matrix = matrixOf()) =>
    textOf(markup(<Missing line={LINE} column={2} />, { review, matrix }));
  assert.equal(said(), "cannot be built: the card is too long");
  assert.equal(said(ran), "crashed");
});

test("a cell with kept passes says what a lens has to say of it", () => {
  const pips = [{ pass_id: "a", number: 1, state: "kept", words: "kept" }];
  const matrix = matrixOf({ progress: [{ test: 1, cells: { 2: progressOf({ pips }) }, uneven: false }] });
  const html = markup(<Missing line={LINE} column={2} kept="no sensor was recorded" />, { matrix });
  assert.equal(textOf(html), "no sensor was recorded");
});

test("readings apart say what they are worth", () => {
  const apart = (bound: string, method: string) =>
    textOf(
      markup(
        <Apart row={rowOf({}, { apart: { 2: [{ number: 1, value: 45, bound, method }] } })} column={2} />,
      ),
    );
  assert.equal(apart("over", "glance at an overlay"), "apart: over 45.0 fps");
  assert.equal(apart("", "glance at an overlay"), "apart: about 45.0 fps");
  assert.equal(apart("", "remembered"), "apart: 45.0 fps, remembered");
  assert.equal(apart("", "as its tool says"), "apart: 45.0 fps, as its tool says");
});

const FLAG = { key: "outlier", words: "pass 3, outlier", severity: "warns", passes: [3] };

test("a flag is told with how many more there are, a note is none", () => {
  const two = [FLAG, { ...FLAG, key: "drifts", words: "drifts" }, { ...FLAG, key: "x", severity: "notes" }];
  assert.equal(textOf(markup(<FlagLine flags={two as never} />)), "⚑ pass 3, outlier · 1 more");
  assert.equal(textOf(markup(<FlagLine flags={two as never} all />)), "⚑ pass 3, outlier ⚑ drifts");
  assert.equal(markup(<FlagLine flags={[{ ...FLAG, severity: "notes" }] as never} />).includes("⚑"), false);
});

test("flags are found by test and column", () => {
  const matrix = matrixOf({ flags: [{ test: 1, cells: { 2: [FLAG] } }] as never });
  assert.equal(flagsOf(matrix, 1, 2).length, 1);
  assert.deepEqual([flagsOf(matrix, 1, 1), flagsOf(matrix, 2, 2)], [[], []]);
});

test("all marks share an axis, and each row's tails another", () => {
  const far = cellOf(50, { comparison: comparisonOf(18), high: 52 });
  const measure = measureOf(matrixOf({ rows: [rowOf({ 1: cellOf(60), 2: far })] }));
  assert.ok(measure.reach >= 19);
  assert.equal(measure.top["1:average_fps"], 60.6);
});

test("figures without the recorder replace centres, take their intervals off, and leave the rest", () => {
  const matrix = matrixOf({ rows: [rowOf({ 1: cellOf(60, { corrected: 61 }), 2: cellOf(50) })] });
  assert.ok(hasCorrection(matrix));
  const cells = withoutRecorder(matrix).rows[0]?.cells ?? {};
  assert.deepEqual([cells[1]?.centre, cells[1]?.low], [61, null]);
  assert.equal(cells[2]?.centre, 50);
  assert.equal(matrix.rows[0]?.cells[1]?.centre, 60);
  assert.ok(!hasCorrection(matrixOf({ rows: [rowOf({ 1: cellOf(60) })] })));
});

test("what came of a target stands in its cell by sign and words, also where nobody can tell", () => {
  const told = (code: string, words: string) => ({ code, words });
  const targets = {
    1: [told("met", "60 fps: met")],
    2: [told("cannot tell", "60 fps: cannot tell, no figure")],
  };
  const row = rowOf({}, { targets });
  assert.equal(textOf(markup(<TargetLine row={row} column={1} />)), "✓ 60 fps: met");
  assert.equal(textOf(markup(<TargetLine row={row} column={2} />)), "? 60 fps: cannot tell, no figure");
  assert.equal(textOf(markup(<TargetLine row={row} column={3} />)), "");
});

test("a cell tells the idle baseline beside it, and whether it was taken off", () => {
  const cell = cellOf(60, { idle: 11 });
  const said = (idle_off: boolean) =>
    textOf(
      markup(
        <FiguresCell row={rowOf({ 1: cell }, { unit: "W", idle_off })} cell={cell} position={0} top={1} />,
      ),
    );
  assert.ok(said(false).includes("idle 11.0 W"));
  assert.ok(!said(false).includes("taken off"));
  assert.ok(said(true).includes("idle 11.0 W taken off"));
});

test("a toggled setting counts its pairs", () => {
  const cell = cellOf(-5, { n: 4 });
  const row = rowOf({ 1: cell }, { kind: "toggle", scale: "difference", unit: "%" });
  assert.ok(textOf(markup(<FiguresCell row={row} cell={cell} position={0} top={1} />)).includes("4 pairs"));
});
