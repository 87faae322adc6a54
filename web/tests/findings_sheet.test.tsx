import assert from "node:assert/strict";
import { test } from "node:test";
import { Acts } from "../src/sheets/findings/Acts";
import { FindingLine } from "../src/sheets/findings/FindingLine";
import type { Finding } from "../src/sheets/findings/listed";
import { PinOf } from "../src/sheets/findings/PinOf";
import { Findings } from "../src/sheets/Findings";
import { FINDING, PIN, PINS } from "./finding_fixtures";
import { columnOf, markup, namesIn, reviewOf, textOf } from "./fixtures";

const KINDS = [
  { key: "overall", words: "over all tests", count: 1, offers: ["role", "baseline"] },
  { key: "chain", words: "chain", count: 0, offers: ["columns"] },
];
const SWEEP: Finding = {
  ...FINDING,
  key: "sweep-1",
  kind: "sweep",
  kind_words: "sweep",
  sentence: "In tour, average: 28 W is enough.",
  columns: [1, 2, 3],
  expected: [],
};

function sheet(answer: object, at = "/", may: string[] = []): string {
  const whole = { kinds: KINDS, findings: [], gone: [], computing: false, ...answer };
  return markup(<Findings />, { answers: [[["findings", 1], whole]], at, may });
}

function line(more: Partial<Finding>, may: string[] = []): string {
  return markup(
    <FindingLine finding={{ ...FINDING, ...more }} chosen={false} onChoose={() => undefined} pins={PINS} />,
    { may },
  );
}

test("the first finding is drawn beside the list, or the one that the address names", () => {
  const said = sheet({ findings: [FINDING, SWEEP] });
  assert.match(textOf(said), /Rests on 8 cells of 2 tests , method 4 \. About findings: over all tests \./);
  assert.ok(namesIn(said).includes(FINDING.sentence), "its chart is named by its sentence");
  const named = sheet({ findings: [FINDING, SWEEP] }, "/?finding=sweep-1");
  assert.match(named, /aria-current="true"[^>]*>(?:(?!<li).)*28\u00a0W is enough/s);
});

test("kinds that have findings are offered with their number, the others are not", () => {
  const said = textOf(sheet({ findings: [FINDING] }));
  assert.ok(said.includes("all 1"));
  assert.ok(said.includes("over all tests 1"));
  assert.ok(!said.includes("chain"));
});

test("only who may edit the review is offered to draw another or to pin", () => {
  assert.ok(!textOf(sheet({ findings: [FINDING] })).includes("Draw another"));
  assert.ok(textOf(sheet({ findings: [FINDING] }, "/", ["edit_review"])).includes("Draw another"));
  assert.ok(!namesIn(line({})).some((name) => name.startsWith("Pin:")));
  assert.ok(namesIn(line({}, ["edit_review"])).includes(`Pin: ${FINDING.sentence}`));
  assert.ok(namesIn(line({ pin: PIN }, ["edit_review"])).includes(`Unpin: ${FINDING.sentence}`));
  assert.ok(textOf(line({ pin: PIN })).endsWith("◆ pinned"));
});

test("while nothing can be said that is told, and pins of before stay readable", () => {
  const gone = { key: "overall-9", pin: { ...PIN, said: "Kit 2 was ahead.", changed: "cannot be told now" } };
  const empty = textOf(sheet({}));
  assert.ok(empty.includes("Nothing can be said yet"));
  const said = textOf(sheet({ gone: [gone] }));
  assert.ok(said.includes("Nothing can be said yet"));
  assert.ok(said.includes("cannot be told now"));
  assert.ok(said.includes("Kit 2 was ahead."));
  assert.ok(textOf(sheet({ findings: [FINDING], gone: [gone] })).includes("Kit 2 was ahead."));
});

test("before the first findings are there they are said to be worked out; after it the old ones stay", () => {
  assert.ok(textOf(sheet({ computing: true })).includes("Working out what the review says"));
  const said = textOf(sheet({ computing: true, findings: [SWEEP] }));
  assert.ok(said.includes("Newer findings are being worked out"));
  assert.ok(said.includes("is enough"));
});

test("a finding says by word and sign how sure it is, what was expected, who drew it, and its note", () => {
  for (const [sure, sign, words] of [
    ["decided", "✓", "decided"],
    ["warns", "⚑", "with a warning"],
    ["undecided", "○", "undecided"],
    ["open", "·", "open"],
  ] as const) {
    const said = textOf(line({ sure, expected: [] }));
    assert.ok(said.startsWith(sign), sure);
    assert.ok(said.includes(`over all tests · ${words}`), sure);
  }
  const said = textOf(
    line({ drawn_by: "Ada", pin: { ...PIN, note: "the answer", changed: "was −12 %, is −9 %" } }),
  );
  assert.ok(said.includes("expected: not held · drawn by Ada · the answer"));
  assert.ok(said.includes("was −12 %, is −9 %"));
});

test("a finding about one configuration against another carries its seal, one about several none", () => {
  const seals = (html: string) => namesIn(html).filter((name) => name.includes("kit"));
  assert.deepEqual(seals(line({})), ["B, kit 2"]);
  assert.deepEqual(seals(line({ columns: [1, 2, 3] })), []);
});

test("a pin tells what was said when it was pinned only where that has changed", () => {
  const shown = (pin: NonNullable<Finding["pin"]>, may: string[] = []) =>
    textOf(markup(<PinOf finding={FINDING} pin={pin} pins={PINS} />, { may }));
  assert.equal(shown({ ...PIN, said: FINDING.sentence }), "◆ pinned by Editor");
  const changed = { ...PIN, said: "It was level.", changed: "was level, is behind" };
  assert.ok(shown(changed).includes("when it said: “It was level.”"));
  assert.ok(!shown(changed).includes("I have seen this"));
  assert.ok(shown(changed, ["record"]).includes("I have seen this"));
  assert.ok(shown(changed, ["edit_review"]).includes("Move up"));
});

test("what would mend a finding is a button for who may do it, and a sentence for the others", () => {
  const owe = { kind: "owe", words: "put 4 passes on the docket, 0.5 h", passes: 4, hours: 0.5, cells: [] };
  const brief = { kind: "brief", words: "add the configuration 28 W, loud", passes: 0, hours: 0, cells: [] };
  const advice = {
    kind: "advice",
    words: "another resolution would show it",
    passes: 0,
    hours: 0,
    cells: [],
  };
  const shown = (may: string[]) =>
    markup(<Acts finding={{ ...FINDING, acts: [owe, brief, advice] }} />, { may });
  assert.match(shown(["ask_for_passes"]), /<button[^>]*>Put 4 passes on the docket, 0.5 h</);
  assert.ok(!shown([]).includes("<button"));
  assert.ok(textOf(shown([])).includes("4 more passes would settle it."));
  assert.match(shown([]), /<a [^>]*href="\/reviews\/1\/brief"[^>]*>add the configuration/);
  assert.ok(textOf(shown([])).includes("another resolution would show it"));
});

test("seals follow the place of a configuration, not its number", () => {
  const review = reviewOf({ columns: [columnOf(7, { position: 0 }), columnOf(3, { position: 1 })] });
  const html = markup(
    <FindingLine finding={{ ...FINDING, columns: [7, 3] }} chosen onChoose={() => undefined} pins={PINS} />,
    { review },
  );
  assert.ok(namesIn(html).includes("B, kit 3"));
});
