import assert from "node:assert/strict";
import { test } from "node:test";
import type { HandRun } from "../src/api/client";
import { BLANK, endingOf, lacksMethod, type Draft } from "../src/docket/hand/draft";
import { clockedSeconds, clockWords, HandClock } from "../src/docket/hand/HandClock";
import { HandSteps } from "../src/docket/hand/HandSteps";
import { landingWords, readingWords } from "../src/sheets/matrix/ledger/words";
import { markup, namesIn, textOf } from "./fixtures";

const NOBODY = { ranBy: "", helpedBy: "" };

function sheetOf(more: Partial<HandRun> = {}): HandRun {
  return {
    entry: 7,
    first_run_apart: false,
    first_run: true,
    started_at: null,
    stopped_at: null,
    now: "2026-05-04T10:00:00Z",
    steps: [],
    fields: [
      { metric: "average_fps", label: "average", unit: "fps", method: "glance at an overlay", half_width: 1 },
      { metric: "load_s", label: "load", unit: "s", method: "", half_width: null },
    ],
    ...more,
  } as HandRun;
}

function draftOf(more: Partial<Draft> = {}): Draft {
  return { ...BLANK, ...more };
}

test("a figure that was never read before needs a method, and one that was does not", () => {
  const typed = { average_fps: { text: "60" }, load_s: { text: " " } };
  assert.equal(lacksMethod(sheetOf(), draftOf({ readings: typed })), undefined);
  assert.equal(lacksMethod(sheetOf(), draftOf({ readings: { load_s: { text: "12" } } })), "load_s");
  const told = { load_s: { text: "12", method: "stopwatch" } };
  assert.equal(lacksMethod(sheetOf(), draftOf({ readings: told })), undefined);
});

test("only what was typed is sent, with its own way of reading where it has one", () => {
  const readings = {
    average_fps: { text: " 60 " },
    load_s: { text: "12,4", method: "stopwatch", half: "0,2" },
  };
  const sent = endingOf(sheetOf(), draftOf({ readings }), NOBODY) as { readings: object[] };
  assert.deepEqual(sent.readings, [
    { metric: "average_fps", text: "60" },
    { metric: "load_s", text: "12,4", method: "stopwatch", half_width: 0.2 },
  ]);
});

test("a precision that nobody knows is sent as none, never as exact", () => {
  const readings = { load_s: { text: "12", method: "remembered", half: "" } };
  const sent = endingOf(sheetOf(), draftOf({ readings }), NOBODY) as { readings: { half_width: unknown }[] };
  assert.equal(sent.readings[0]?.half_width, null);
});

test("what came of a failure is sent with a failure only", () => {
  const told = { action: "restarted", fallback: "low preset" };
  const crashed = endingOf(sheetOf(), draftOf({ outcome: "crashed", ...told }), NOBODY);
  assert.deepEqual({ ...told, ...crashed }, { ...crashed, ...told });
  const completed = endingOf(sheetOf(), draftOf(told), NOBODY) as typeof told;
  assert.deepEqual([completed.action, completed.fallback], ["", ""]);
});

test("a run is first as proposed until somebody says otherwise, and never where the workload does not tell", () => {
  const first = (more: Partial<HandRun>, firstRun: boolean | null) =>
    (endingOf(sheetOf(more), draftOf({ firstRun }), NOBODY) as { first_run: boolean }).first_run;
  assert.equal(first({ first_run_apart: true }, null), true);
  assert.equal(first({ first_run_apart: true }, false), false);
  assert.equal(first({ first_run_apart: false }, true), false);
});

test("a clock tells tenths and never rounds up to sixty seconds", () => {
  for (const [seconds, words] of [
    [0, "0:00.0"],
    [59.99, "0:59.9"],
    [67.42, "1:07.4"],
  ] as const)
    assert.equal(clockWords(seconds), words);
});

test("only a clock that was stopped has a time", () => {
  assert.equal(clockedSeconds(sheetOf({ started_at: "2026-05-04T10:00:00Z" })), null);
  const both = { started_at: "2026-05-04T10:00:00Z", stopped_at: "2026-05-04T10:01:15.5Z" };
  assert.equal(clockedSeconds(sheetOf(both)), 75.5);
});

test("a running clock offers to end, a stopped one to start anew, a watched one nothing", () => {
  const began = Date.parse("2026-05-04T10:00:00Z");
  const buttons = (more: Partial<HandRun>, readOnly = false) =>
    textOf(markup(<HandClock run={sheetOf(more)} readAt={began} readOnly={readOnly} />));
  assert.ok(buttons({}).includes("Start Space"));
  assert.ok(buttons({ started_at: "2026-05-04T09:59:00Z" }).includes("End Space"));
  const both = { started_at: "2026-05-04T09:59:00Z", stopped_at: "2026-05-04T10:00:15Z" };
  assert.ok(buttons(both).includes("1:15.0 Start it anew"));
  assert.ok(!buttons({}, true).includes("Start"));
});

test("steps tell what is set and looked at, and what was over its limit", () => {
  const steps = [
    {
      key: "check:cool",
      kind: "check",
      words: "cooled down",
      reading: "processor",
      unit: "°C",
      at_most: 45,
      seconds: null,
      tick: { at: "2026-05-04T10:00:00Z", by: "Ines Barrow", observed: 51, fits: false },
    },
    {
      key: "check:room",
      kind: "check",
      words: "room measured",
      reading: "room",
      unit: "°C",
      at_most: null,
      seconds: null,
      tick: null,
    },
    {
      key: "step:0",
      kind: "warm-up",
      words: "Let it warm up",
      reading: "",
      unit: "",
      at_most: null,
      seconds: 90,
      tick: null,
    },
  ];
  const html = markup(<HandSteps run={sheetOf({ steps })} readOnly={false} />);
  const said = textOf(html);
  assert.ok(said.includes("⚑ over the limit: 51 °C"), said);
  assert.ok(said.includes("Note"), said);
  assert.ok(said.includes("Let it warm up"), said);
  assert.ok(!textOf(markup(<HandSteps run={sheetOf({ steps })} readOnly />)).includes("Note"));
  assert.deepEqual(namesIn(html), ["Steps"]);
});

test("a workload without steps says where they are written", () => {
  assert.ok(textOf(markup(<HandSteps run={sheetOf()} readOnly={false} />)).includes("written in Workloads"));
});

test("what is typed says which owed pass it settles and what came of a failure", () => {
  const landing = {
    value: 60,
    half_width: 0,
    bound: "",
    outcome: "completed",
    missing: "",
    number: 2,
    new: true,
    settles: true,
    warnings: [],
    reason: "",
    action: "",
    fallback: "",
  };
  assert.equal(landingWords(landing), "pass 2, which is owed");
  assert.equal(landingWords({ ...landing, settles: false }), "pass 2");
  assert.equal(landingWords({ ...landing, new: false }), "onto pass 2");
  const crash = {
    ...landing,
    value: null,
    outcome: "crashed",
    reason: "driver reset",
    fallback: "low preset",
  };
  assert.equal(
    readingWords(crash, "fps", { crashed: "crashed" }),
    "crashed (driver reset; instead: low preset)",
  );
});
