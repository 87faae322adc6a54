import assert from "node:assert/strict";
import { test } from "node:test";
import { Captures, handsWords } from "../src/places/record/Captures";
import { Configurations } from "../src/places/record/Configurations";
import { Reservations } from "../src/places/record/Reservations";
import { Results } from "../src/places/record/Results";
import { limits } from "../src/sheets/matrix/lenses/limits";
import { versus } from "../src/sheets/matrix/lenses/versus";
import {
  cellOf,
  comparisonOf,
  markup,
  matrixOf,
  progressOf,
  reviewOf,
  rowOf,
  testOf,
  textOf,
} from "./fixtures";

const PASS = {
  id: "a",
  test: 1,
  column: 2,
  number: 3,
  outcome: "completed",
  outcome_words: "completed",
  note: "",
  set_aside: false,
  reason: "",
  by: "Ada",
  started_at: "2026-05-04T10:00:00Z",
  has_trace: false,
  frame: {},
  captures: [],
  marks: [],
  pictures: [],
};

function contentOf(more: object = {}): never {
  return {
    format: 2,
    review: reviewOf(),
    matrix: matrixOf(),
    configurations: [],
    passes: [],
    measured_by: ["Ada"],
    published_by: "Ada",
    published_at: "2026-05-05T10:00:00Z",
    ...more,
  } as never;
}

test("the record says which passes failed and which were set aside, with why", () => {
  const passes = [
    { ...PASS, outcome: "crashed", outcome_words: "crashed", note: "driver reset" },
    { ...PASS, id: "b", number: 4, set_aside: true, reason: "a guest leaned on it" },
    { ...PASS, id: "c", number: 5 },
  ];
  const said = textOf(markup(<Reservations content={contentOf({ passes })} />));
  assert.ok(said.includes("Passes that failed tour, high on kit 2, pass 3: crashed, driver reset."));
  assert.ok(said.includes("Passes set aside tour, high on kit 2, pass 4: a guest leaned on it."));
  assert.ok(!said.includes("pass 5"));
});

test("a failed pass that was set aside stands among the failed only", () => {
  const passes = [{ ...PASS, outcome: "crashed", outcome_words: "crashed", set_aside: true }];
  const said = textOf(markup(<Reservations content={contentOf({ passes })} />));
  assert.ok(said.includes("Passes that failed") && !said.includes("Passes set aside"));
});

test("all flags are told, also those that only note", () => {
  const matrix = matrixOf({
    flags: [
      {
        test: 1,
        cells: {
          2: [
            { key: "a", words: "pass 3, outlier", severity: "warns" },
            { key: "b", words: "room temperature from 21 to 26 °C", severity: "notes" },
          ],
        },
      },
    ] as never,
  });
  const said = textOf(markup(<Reservations content={contentOf({ matrix })} />));
  assert.ok(said.includes("pass 3, outlier."));
  assert.ok(said.includes("room temperature from 21 to 26 °C."));
});

test("what the test cannot show, what is not trusted and how passes ran stand in the record", () => {
  const matrix = matrixOf({
    limits: [
      { test: 1, cells: {}, masked: { 2: { by: "graphics", words: "Both are limited by the graphics." } } },
    ],
    rows: [rowOf({}, { untrusted: "it counts its menu" })],
    alike: [
      {
        test: 1,
        against: {
          2: [{ key: "driver", words: "driver: 31.4 against 31.2", severity: "warns", accepted: "no other" }],
        },
      },
    ],
  });
  const said = textOf(markup(<Reservations content={contentOf({ matrix })} />));
  assert.ok(
    said.includes("What this test cannot show tour, high on kit 2: Both are limited by the graphics."),
  );
  assert.ok(said.includes("tour, high, average: not trusted, it counts its menu."));
  assert.ok(said.includes("driver: 31.4 against 31.2, accepted: no other."));
});

test("a record with nothing to reserve says nothing", () => {
  assert.equal(textOf(markup(<Reservations content={contentOf()} />)), "");
});

test("a configuration names its parts and settings", () => {
  const configurations = [
    {
      column: 2,
      system: "Heron",
      configuration: "two kits",
      parts: [{ name: "memory", value: "16 GB in 2 modules on 2 channels" }],
      settings: [{ name: "power limit", value: "35 W" }],
    },
  ];
  const said = textOf(markup(<Configurations content={contentOf({ configurations })} />));
  assert.ok(said.includes("Heron, two kits memory 16 GB in 2 modules on 2 channels power limit 35 W"));
});

test("a record of passes without traces shows its first, which says what it has or how it failed", () => {
  const said = (...passes: object[]) => textOf(markup(<Captures content={contentOf({ passes })} slug="s" />));
  assert.ok(said(PASS).includes("run by Ada This pass has no frame times."));
  const failed = { ...PASS, outcome: "crashed", outcome_words: "crashed", note: "driver reset" };
  assert.ok(said(failed).includes("by Ada · driver reset crashed"));
  const traced = { ...PASS, id: "b", has_trace: true, by: "Grace" };
  assert.ok(said(PASS, traced).includes("by Grace"), "one with a trace goes first");
  assert.equal(said(), "No pass.");
});

test("a published pass is named with its test, seal, number and state", () => {
  const passes = [
    { ...PASS, outcome: "crashed", outcome_words: "crashed" },
    { ...PASS, id: "b", set_aside: true },
  ];
  const html = markup(<Captures content={contentOf({ passes })} slug="s" />);
  assert.match(html, /tour, high · B kit 2 · pass 3, crashed/);
  assert.match(html, /tour, high · B kit 2 · pass 3, set aside/);
});

const MATRIX = matrixOf({
  rows: [
    rowOf({
      1: cellOf(60),
      2: cellOf(66, { comparison: comparisonOf(10, { told: "+10.0 %", interval: "+9.0 to +11.0 %" }) }),
    }),
  ],
  progress: [{ test: 2, cells: { 2: progressOf({ said: "did not start (no wheel)" }) }, uneven: false }],
  flags: [{ test: 1, cells: { 2: [{ key: "a", words: "pass 3, outlier", severity: "warns" }] } }] as never,
});
const REVIEW = reviewOf({ tests: [testOf(1), testOf(2, { name: "lap", workload: 2 })] });

test("the record's table says what the matrix says: change, interval, verdict, and every flag", () => {
  const said = textOf(markup(<Results lens={versus} />, { review: REVIEW, matrix: MATRIX }));
  for (const words of ["60.0 fps", "+10.0 %", "ahead", "+9.0 to +11.0 %", "⚑ pass 3, outlier"]) {
    assert.ok(said.includes(words), `${words} in ${said}`);
  }
});

test("a cell that did not start does not read as one that was not run", () => {
  const rows = [...MATRIX.rows, rowOf({}, { key: "2:average_fps", test: 2 })];
  const said = textOf(markup(<Results lens={versus} />, { review: REVIEW, matrix: { ...MATRIX, rows } }));
  assert.ok(said.includes("did not start (no wheel)"), said);
});

test("limits stand in the record with their shares", () => {
  const cell = {
    called: "graphics",
    words: "limited by the graphics",
    shares: [{ kind: "graphics", share: 1, evidence: "" }],
    also: [],
    missing: [],
    passes: 3,
    drop: null,
    heat: null,
    memory: [],
    collapse: null,
    notes: [],
    sentences: [],
  };
  const matrix = { ...MATRIX, limits: [{ test: 1, cells: { 2: cell }, masked: {} }] };
  const said = textOf(markup(<Results lens={limits} />, { review: REVIEW, matrix }));
  assert.ok(said.includes("limited by the graphics 100 %"));
});

test("how the figures are to be read stands once under them", () => {
  const said = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: MATRIX }));
  assert.ok(said.includes("Percentages are the plain change of the value"));
  assert.ok(!said.includes("1 % low"), "a review without lows explains none");
  const lows = {
    ...MATRIX,
    rows: [...MATRIX.rows, rowOf({ 1: cellOf(45) }, { key: "1:low_1pct", metric: "low_1pct" })],
  };
  const explained = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: lows }));
  assert.ok(explained.includes("1 % low : mean of the slowest frames."));
  const drifted = {
    ...MATRIX,
    returned: [{ test: 1, at: "x", drifted: true, words: "the session drifted", verdict: "behind" }] as never,
  };
  const warned = textOf(markup(<versus.Foot />, { review: REVIEW, matrix: drifted }));
  assert.ok(warned.includes("⚑ tour, high: the session drifted."));
});

test("a record tells whose hands a pass was in, what was done about it and what ran instead", () => {
  const told = {
    by: "Ines",
    helped_by: "Tomas",
    typed_by: "Mirela",
    note: "driver reset",
    action: "",
    fallback: "",
  };
  assert.equal(handsWords(told), "run by Ines with Tomas · typed by Mirela · driver reset");
  assert.equal(
    handsWords({ ...told, helped_by: "", typed_by: "Ines", action: "went on", fallback: "low preset" }),
    "run by Ines · driver reset · then: went on · instead: low preset",
  );
});
