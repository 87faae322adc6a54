import assert from "node:assert/strict";
import { test } from "node:test";
import { HoldNote } from "../src/docket/HoldNote";
import { SlotMap } from "../src/marks/SlotMap";
import { within } from "../src/marks/trace/ZoomKeys";
import { PassList } from "../src/sheets/matrix/PassList";
import { chosenPasses, hasFrames, hasTrace, shownPass } from "../src/sheets/matrix/pane/chosen";
import { Sentence } from "../src/sheets/matrix/Sentence";
import {
  cellOf,
  comparisonOf,
  markup,
  matrixOf,
  namesIn,
  progressOf,
  reviewOf,
  rowOf,
  textOf,
} from "./fixtures";

const CELL = { test: 1, metric: "average_fps", column: 2 };

function sentence(cell: ReturnType<typeof cellOf>, more: object = {}): string {
  const matrix = matrixOf({ rows: [rowOf({ 1: cellOf(60), 2: cell })], ...more });
  return textOf(markup(<Sentence cell={CELL} />, { matrix }));
}

test("the pane reads the sentence aloud, and what it rests on", () => {
  const cell = cellOf(66, {
    comparison: comparisonOf(10),
    sentence: "B against A: average 10.0 % higher, +9.0 to +11.0 %: ahead.",
    basis: ["3 passes against 3.", "Evenness 0.75."],
  });
  assert.equal(
    sentence(cell),
    "B against A: average 10.0 % higher, +9.0 to +11.0 %: ahead . 3 passes against 3. Evenness 0.75.",
  );
});

test("a driver that differed as the passes ran is told with the sentence", () => {
  const alike = [
    {
      test: 1,
      against: {
        2: [{ key: "driver", words: "driver: 31.4 against 31.2", severity: "warns", accepted: "" }],
      },
    },
  ];
  const said = sentence(cellOf(66, { sentence: "B: average 66 fps." }), { alike });
  assert.ok(said.includes("⚑ As they ran: driver: 31.4 against 31.2"));
});

test("nothing is said of a cell that has no figure", () => {
  assert.equal(textOf(markup(<Sentence cell={{ ...CELL, column: 9 }} />)), "");
});

function passOf(id: string, more: object = {}) {
  return {
    id,
    number: 1,
    origin: "bench",
    outcome: "completed",
    outcome_words: "completed",
    note: "",
    started_at: "2026-05-04T10:00:00Z",
    duration_s: 60,
    set_aside: false,
    kept: true,
    recounting: false,
    stability: "",
    recorder: "",
    remarks: [],
    ranges: [],
    captures: [{ kind: "frames" }],
    figures: [],
    marks: [],
    pictures: [],
    attempts: 0,
    action: "",
    fallback: "",
    run_group: "",
    ran_by: "",
    helped_by: "",
    brought_by: "Tomas Quill",
    steps: [],
    ...more,
  };
}

function list(passes: object[], more: object = {}, shown = ""): string {
  const nothing = () => undefined;
  return markup(
    <PassList
      cell={CELL}
      detail={{ passes, pooled_lows: [], ...more } as never}
      shown={shown}
      titled={false}
      onShow={nothing}
      onAside={nothing}
      over={[]}
      onOver={nothing}
    />,
    {
      matrix: matrixOf({
        progress: [
          {
            test: 1,
            uneven: false,
            cells: {
              2: progressOf({ pips: [{ pass_id: "b", number: 2, state: "blocked", words: "not averaged" }] }),
            },
          },
        ],
      }),
    },
  );
}

test("a first run wears its own sign and says what it is compared with", () => {
  const html = list([passOf("a", { run_group: "first" })]);
  assert.ok(namesIn(html).includes("first run"));
  assert.ok(textOf(html).includes("compared with its like only"));
});

test("a failure tells what was done about it and what ran instead", () => {
  const crashed = { outcome: "crashed", outcome_words: "crashed", note: "driver reset" };
  const said = textOf(list([passOf("a", { ...crashed, action: "went on", fallback: "low preset" })]));
  for (const words of ["driver reset", "Done about it: went on", "Ran instead: low preset"])
    assert.ok(said.includes(words), said);
});

test("an opened pass tells who ran it, who helped and who typed it", () => {
  const hands = { origin: "typed", ran_by: "Ines Barrow", helped_by: "Oskar Lind, from afar" };
  const said = textOf(list([passOf("a", hands)], {}, "a"));
  assert.ok(said.includes("run by Ines Barrow with Oskar Lind, from afar; typed by Tomas Quill"), said);
});

test("an opened pass by hand tells its steps, and what was over its limit", () => {
  const tick = { at: "2026-05-04T10:00:00Z", by: "Ines Barrow" };
  const steps = [
    { kind: "check", words: "cooled down", observed: 51, unit: "°C", fits: false, ...tick },
    { kind: "scene", words: "kelp tunnel", at: "", by: "", observed: null, unit: "", fits: true },
  ];
  const said = textOf(list([passOf("a", { steps })], {}, "a"));
  for (const words of ["1 of 2 steps ticked", "51 °C ⚑ over its limit", "kelp tunnel not ticked"])
    assert.ok(said.includes(words), said);
});

test("a pass wears the sign that Progress gives it", () => {
  const html = list([
    passOf("a"),
    passOf("b", { number: 2 }),
    passOf("c", { number: 3, outcome: "crashed", outcome_words: "crashed" }),
    passOf("d", { number: 4, set_aside: true }),
  ]);
  const signs = namesIn(html).filter((name) => !name.startsWith("lay over"));
  assert.deepEqual(signs.slice(0, 4), ["kept", "not averaged", "failed", "set aside"]);
});

test("a failed pass says how it ended, and cannot be set aside", () => {
  const said = textOf(
    list([passOf("c", { outcome: "crashed", outcome_words: "crashed", note: "driver reset" })]),
  );
  assert.ok(said.includes("crashed") && said.includes("driver reset"));
  assert.ok(!said.includes("set aside"));
});

test("a pass of unknown length does not last nothing", () => {
  assert.ok(textOf(list([passOf("a", { duration_s: null })])).includes("length unknown"));
});

test("what was done to a pass stands with it, with who did it and why", () => {
  const remarks = [{ act: "taken_back", reason: "it was the right scene", by: "Ada", at: "x" }];
  assert.ok(textOf(list([passOf("a", { remarks })])).includes("Taken back by Ada: it was the right scene"));
});

test("a pass of a recorder pair says that it is not averaged", () => {
  const said = textOf(list([passOf("a", { recorder: "off" })]));
  assert.ok(said.includes("without the recorder") && said.includes("not averaged"));
});

test("a pooled low says over how many frames and passes it is", () => {
  const pooled = [{ metric: "low_1pct", value: 45.2, low: 44, high: 46.5, frames: 12_345, passes: 3 }];
  const said = textOf(list([passOf("a")], { pooled_lows: pooled }));
  assert.ok(
    said.includes("Pooled 1 % low over the 12,345 frames of 3 passes: 45.2 fps , between 44.0 and 46.5"),
    said,
  );
});

test("the pass that is shown is the one asked for, else the last that counts, else the last", () => {
  const passes = [passOf("a"), passOf("b"), passOf("c", { kept: false })];
  const of = (detail: object, asked?: string) => shownPass(detail as never, asked)?.id;
  assert.equal(of({ passes }, "a"), "a");
  assert.equal(of({ passes }), "b");
  assert.equal(of({ passes }, "gone"), "b");
  assert.equal(of({ passes: [passes[2]] }), "c");
  assert.equal(of({ passes: [] }), undefined);
  assert.equal(shownPass(undefined, "a"), undefined);
});

test("passes of one cell lie over one another in layers, those of another begin anew", () => {
  const details = [{ passes: [passOf("a"), passOf("b")] }, { passes: [passOf("c")] }];
  const found = chosenPasses(reviewOf(), [{ ...CELL, column: 1 }, CELL], details as never, {}, ["a"]);
  assert.deepEqual(
    found.map(({ pass, layer, column }) => [pass.id, layer, column.id]),
    [
      ["b", 0, 1],
      ["a", 1, 1],
      ["c", 0, 2],
    ],
  );
});

test("a file beside a pass is no trace", () => {
  assert.ok(hasTrace(passOf("a") as never));
  assert.ok(!hasTrace(passOf("a", { captures: [{ kind: "file" }] }) as never));
  assert.ok(!hasTrace(undefined));
  assert.ok(!hasFrames(passOf("a", { captures: [{ kind: "sensor" }] }) as never));
});

test("a stretch stays within the run and keeps its width, and the whole run is none", () => {
  assert.deepEqual(within(-5, 5, 60), { from: 0, to: 10 });
  assert.deepEqual(within(55, 65, 60), { from: 50, to: 60 });
  assert.equal(within(-5, 65, 60), null);
  assert.equal(within(0, 60, 60), null);
  assert.deepEqual(within(10, 20, 60), { from: 10, to: 20 });
});

const SLOTS = [
  { name: "A1", channel: "A", fill: 2 },
  { name: "A2", channel: "A", fill: 1 },
  { name: "B1", channel: "B", fill: 3 },
];

test("a slot map says which channels are in use", () => {
  const fitted = { A2: { part: 1, module: 1, words: "module 1 of 2" } };
  const html = markup(<SlotMap slots={SLOTS} fitted={fitted} marked={[]} />);
  assert.ok(namesIn(html).includes("Channel A, in use"));
  assert.ok(namesIn(html).includes("Channel B, not in use"));
  assert.ok(textOf(html).includes("module 1 of 2"));
});

test("a board without a slot map says so", () => {
  assert.equal(
    textOf(markup(<SlotMap slots={[]} fitted={{}} marked={[]} />)),
    "No slot map is known for its board.",
  );
});

const HOLD = {
  configuration: 2,
  title: "Wren at 20 W",
  key: "power_limit_w",
  observed: 35,
  words: "power limit is 35 W and should be 20 W",
  ways: ["Set it again.", "Ask a tester to go on."],
};

test("a stopped docket says why, and offers its ways to those who may take them", () => {
  const note = (may: boolean) =>
    textOf(markup(<HoldNote docket={{ id: 1 } as never} hold={HOLD as never} may={may} large={false} />));
  assert.ok(note(false).includes("Stopped: on Wren at 20 W, power limit is 35 W and should be 20 W."));
  assert.ok(note(false).includes("Ask a tester to go on."));
  assert.ok(!note(false).includes("Go on"));
  assert.ok(note(true).includes("Or go on with it, and say why"));
});
