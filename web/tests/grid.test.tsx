import assert from "node:assert/strict";
import { test } from "node:test";
import { SystemOrder } from "../src/docket/SystemOrder";
import { Grid } from "../src/sheets/matrix/Grid";
import { LENSES, lensOf } from "../src/sheets/matrix/lenses/registry";
import { cellOf, comparisonOf, markup, matrixOf, reviewOf, rowOf, testOf, textOf } from "./fixtures";

const REVIEW = reviewOf({
  tests: [testOf(1), testOf(2, { detail: "low", short: "low" }), testOf(3, { name: "lap", workload: 2 })],
});
const MATRIX = matrixOf({
  rows: [1, 2, 3].map((id) =>
    rowOf(
      { 1: cellOf(60 + id), 2: cellOf(50 + id, { comparison: comparisonOf(-15, { told: "−15.0 %" }) }) },
      { key: `${id}:average_fps`, test: id },
    ),
  ),
});
const LEDGER = { on: false, isAt: () => false };

function grid(lens: string, more: object = {}, review = REVIEW, matrix = MATRIX): string {
  const nothing = () => undefined;
  return markup(
    <Grid
      lens={lensOf(lens)}
      chosen={[]}
      only={null}
      folded={new Set<string>()}
      onFolded={nothing}
      onChoose={nothing}
      onFocus={nothing}
      onBaseline={nothing}
      ledger={LEDGER as never}
      onBlock={nothing}
      onText={nothing}
      {...more}
    />,
    { review, matrix },
  );
}

function cellsIn(html: string): string[] {
  return html.match(/<td role="gridcell"[^>]*>.*?<\/td>/g) ?? [];
}

test("one cell is in the tab order, and every cell has a name", () => {
  for (const lens of LENSES) {
    const cells = cellsIn(grid(lens.key));
    assert.ok(cells.length >= 6, lens.key);
    assert.equal(cells.filter((cell) => cell.includes('tabindex="0"')).length, 1, lens.key);
    for (const cell of cells) assert.match(cell, /sr-only">[^<]+, on kit [12]/);
  }
});

test("rows and columns are counted for those who do not see the grid", () => {
  const html = grid("versus");
  assert.match(html, /role="grid" aria-rowcount="4"/);
  assert.match(html, /aria-label="Does the second kit help\? versus"/);
  assert.deepEqual(
    [...html.matchAll(/aria-rowindex="(\d)"/g)].map((found) => found[1]),
    ["1", "2", "3", "4"],
  );
});

test("a workload stands once over its tests, and folds to its name with how much is in it", () => {
  // What cells say of themselves to who hears them stands apart.
  const open = textOf(grid("versus").replace(/<span class="sr-only">.*?<\/span>/g, ""));
  assert.equal(open.match(/tour/g)?.length, 1);
  const folded = textOf(grid("versus", { folded: new Set(["1"]) }));
  assert.ok(folded.includes("2 rows folded"));
  assert.ok(!folded.includes("61.0 fps") && folded.includes("63.0 fps"));
});

test("with a cell open, its rows alone are shown and cannot be folded", () => {
  const html = grid("versus", {
    only: new Set([2]),
    chosen: [{ test: 2, metric: "average_fps", column: 2 }],
  });
  const said = textOf(html);
  assert.ok(said.includes("62.0 fps") && !said.includes("61.0 fps"));
  assert.equal(html.match(/aria-selected="true"/g)?.length, 1);
  assert.ok(!said.includes("▾") && !said.includes("▸"));
});

test("a review without tests says so in place of a grid", () => {
  const html = grid("versus", {}, reviewOf({ tests: [] }), matrixOf());
  assert.equal(textOf(html), "This review has no tests or configurations yet.");
});

test("lenses are found by their key, and what is unknown leads to one that is there", () => {
  assert.equal(lensOf("limits").key, "limits");
  assert.ok(LENSES.includes(lensOf("unheard of")));
  assert.ok(LENSES.includes(lensOf(null)));
  assert.equal(new Set(LENSES.map((lens) => lens.key)).size, LENSES.length);
});

const DOCKET = {
  id: 1,
  key: "wren",
  system: "Wren",
  heard_at: null,
  has_bench: true,
  changes_by: "tester",
  present: "35 W",
  mode: "fewest",
  seed: 1,
  openings: 3,
  fewest_openings: 2,
  exact: true,
  hours: 1.5,
  hold: null,
  running: [],
  visits: [],
  blocked: [],
};

function order(changes: object = {}, may: string[] = []): string {
  return textOf(markup(<SystemOrder docket={{ ...DOCKET, ...changes } as never} />, { may }));
}

test("a docket says whether anything will run by itself", () => {
  assert.ok(order().includes("its bench was not heard yet · is 35 W"));
  assert.ok(order({ has_bench: false }).includes("no bench is connected, so nothing runs by itself"));
});

test("a stopped docket says what does not agree before anything else is done", () => {
  const hold = {
    title: "20 W",
    words: "the power limit is 35 W",
    ways: ["Set it again."],
    configuration: 2,
    key: "p",
  };
  assert.ok(order({ hold }).includes("Stopped: on 20 W, the power limit is 35 W."));
});

test("a word that is explained is a stop for the keyboard", () => {
  const html = markup(<SystemOrder docket={{ ...DOCKET, heard_at: "2026-05-04T10:00:00Z" } as never} />);
  assert.match(html, /<a [^>]*href="\/help\/glossary#bench"[^>]*>bench<\/a>/);
});
