import assert from "node:assert/strict";
import { test } from "node:test";
import { keys } from "../src/api/queries";
import { found } from "../src/design/Search";
import { TERMS } from "../src/design/terms";
import { Reviews } from "../src/places/Reviews";
import { Systems } from "../src/places/Systems";
import { Workloads } from "../src/places/Workloads";
import { Dialog } from "../src/design/Dialog";
import { Menu } from "../src/design/Menu";
import { markup, namesIn, textOf } from "./fixtures";

const REVIEW = {
  id: 1,
  key: "kits",
  question: "Does the second kit help?",
  varies: "memory",
  columns: ["one kit", "two kits"],
  tests: 4,
  state: "passes owed",
  kept: 12,
  owed: 3,
  running: 0,
  last_pass_at: null,
  record: null,
  archived: false,
};

function reviews(list: object[], may: string[] = []): string {
  return markup(<Reviews />, { may, answers: [[[...keys.reviews, false], list]] });
}

test("the list says what each review asks, varies, has and owes", () => {
  const said = textOf(reviews([REVIEW]));
  for (const words of ["Does the second kit help?", "memory", "12", "3", "1 review"]) {
    assert.ok(said.includes(words), `${words} in ${said}`);
  }
});

test("a reader is offered no act, an editor may ask", () => {
  assert.ok(!textOf(reviews([REVIEW])).includes("Ask a question"));
  assert.ok(textOf(reviews([REVIEW], ["edit_review"])).includes("Ask a question"));
  assert.ok(namesIn(reviews([REVIEW], ["edit_review"])).some((name) => name.includes("what can be done")));
});

test("an empty list says how to begin", () => {
  assert.ok(textOf(reviews([])).includes("No review yet"));
});

const WORKLOAD = {
  id: 7,
  key: "tour",
  name: "Tour",
  version: "2.0",
  kind: "scene",
  kind_label: "game or real-time scene",
  description: "A walk along the reef.",
  procedure: "Start it and wait.",
  steps: [{ kind: "start", words: "Begin at the pier", seconds: 95 }],
  runner: "",
  command: {},
  approvals: [],
  settings: [{ key: "detail", label: "detail", values: ["low", "high"] }],
  metrics: [{ key: "time", label: "time", unit: "s", direction: "lower", scale: "ratio" }],
  requirements: [{ aspect: "memory_gb", label: "memory", least: 8, unit: "GB" }],
  files: "",
  duration_s: 120,
  warm_up_s: 20,
  rules: [],
  judgement: "",
  comparable: [],
  checks: [],
  archived_at: null,
  edit: 1,
  fixed: false,
  editions: [{ id: 8, version: "1.0", comparable: false, why: "" }],
  used_in: 0,
};
const FITNESS = {
  workload: 7,
  passes: 12,
  duration_s: 118,
  average_fps: 61.2,
  remarks: ["Nothing speaks against it."],
};

function workloads(one: object = {}, may: string[] = [], fitness: object = FITNESS): string {
  return markup(<Workloads />, {
    may,
    answers: [
      [[...keys.workloads, false], [{ ...WORKLOAD, ...one }]],
      [["fitness"], [fitness]],
      [["catalogue"], { workload_kinds: { scene: "game or real-time scene", soak: "soak" } }],
    ],
  });
}

test("a workload tells how it is run, what it reports, and whether it is fit as a test", () => {
  const said = textOf(workloads());
  for (const words of [
    "Tour 2.0",
    "2 min a pass, 20 s of it to warm up",
    "Nothing speaks against it.",
    "From 12 passes on record: 2 min on average, at 61.2 fps.",
    "Begin at the pier",
    "time in s lower is better, compared by ratio",
    "memory, 8 GB at least",
    "never compared with this one",
  ]) {
    assert.ok(said.includes(words), `${words} in ${said}`);
  }
});

test("kinds are those that the server knows", () => {
  const html = workloads();
  assert.match(html, /<option value="scene"[^>]*>game or real-time scene<\/option>/);
  assert.match(html, /<option value="soak"/);
});

test("only one with passes is fixed, and says so", () => {
  assert.ok(!textOf(workloads()).includes("fixed, as it has passes"));
  assert.ok(textOf(workloads({ fixed: true })).includes("fixed, as it has passes"));
});

test("one in no review can be deleted, by those who may", () => {
  const acts = (html: string) => textOf(html).includes("Delete");
  assert.ok(!acts(workloads()));
  assert.ok(acts(workloads({}, ["edit_workloads"])));
  assert.ok(!acts(workloads({ used_in: 2 }, ["edit_workloads"])));
});

test("an edition that is comparable says why", () => {
  const editions = [{ id: 8, version: "1.0", comparable: true, why: "the same tour" }];
  assert.ok(textOf(workloads({ editions })).includes("declared comparable: the same tour"));
});

const SYSTEM = {
  id: 1,
  key: "heron",
  name: "Heron",
  description: "desk machine",
  simulated: false,
  origin: "bought",
  present: "16 GB",
  configurations: 2,
  heard_at: null,
  has_bench: false,
  archived_at: null,
  owed: 0,
};

test("an editor adds systems, and others are told who does", () => {
  const systems = (may: string[]) =>
    textOf(
      markup(<Systems />, {
        may,
        answers: [
          [keys.systems, [SYSTEM]],
          [["benches"], []],
        ],
      }),
    );
  assert.ok(systems([]).includes("An editor adds systems, an admin connects their benches."));
  assert.ok(!systems([]).includes("Add a system"));
  assert.ok(systems(["add_systems"]).includes("Add a system"));
  assert.ok(systems([]).includes("Heron"));
});

test("what is searched is found in any of the words, whatever their case", () => {
  assert.ok(found("REEF walk", "Reef Walk 2", "scene"));
  assert.ok(found("", "anything"));
  assert.ok(!found("tunnel", "Reef Walk 2"));
});

test("every word that is explained has a sentence", () => {
  for (const [name, words] of Object.entries(TERMS)) {
    assert.match(words, /^[A-Z0-9].*\.$/, name);
    assert.ok(words.split(" ").length > 5, name);
  }
});

test("a dialog that is not open is nothing", () => {
  const closed = (
    <Dialog open={false} onClose={() => undefined} title="Keys">
      words
    </Dialog>
  );
  assert.equal(textOf(markup(closed)), "");
});

test("a menu that nobody asked for is a button that says what it is", () => {
  const menu = (
    <Menu
      label="what can be done"
      trigger={<button type="button">…</button>}
      items={[{ label: "Copy", act: () => undefined }]}
    />
  );
  const drawn = markup(menu);
  assert.match(drawn, /aria-haspopup="menu"/);
  assert.match(drawn, /aria-label="what can be done"/);
  assert.ok(!drawn.includes("Copy"));
});
