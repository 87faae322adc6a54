import assert from "node:assert/strict";
import { test } from "node:test";
import type { VerdictShape } from "../src/api/client";
import type { Finding } from "../src/sheets/findings/listed";
import { Editions } from "../src/sheets/verdict/Editions";
import { Marked } from "../src/sheets/verdict/Marked";
import { OpenPoints } from "../src/sheets/verdict/OpenPoints";
import { PinnedList } from "../src/sheets/verdict/PinnedList";
import { SentenceLine } from "../src/sheets/verdict/SentenceLine";
import { Signatures } from "../src/sheets/verdict/Signatures";
import { UseSection } from "../src/sheets/verdict/UseSection";
import type { Sentence, Use } from "../src/sheets/verdict/verdict";
import { Verdict } from "../src/sheets/Verdict";
import { FINDING, PIN } from "./finding_fixtures";
import { markup, namesIn, reviewOf, textOf } from "./fixtures";

const PINNED: Finding = { ...FINDING, pin: { ...PIN, number: 4 } };
const NUMBERS = new Map([[4, PINNED]]);
const KEYS = new Map([[PINNED.key, PINNED]]);
const USE: Use = {
  key: "a",
  name: "the dome",
  outcome: "",
  judged: [],
  conditions: { settings: "", room: "", workload: "", basis: "" },
  text: "Kit 2 is behind [4].",
};
const EMPTY: VerdictShape = {
  version: 0,
  answer: "",
  uses: [],
  edited_by: "",
  edited_at: null,
  revisions: 0,
  sentences: [],
  prices: [],
  points: [],
  signatures: [],
  two_signatures: false,
  lacks: [],
};

function sentenceOf(more: Partial<Sentence> = {}): Sentence {
  return {
    use: "a",
    paragraph: 0,
    text: "Kit 2 is behind [4].",
    status: "backed",
    status_words: "backed",
    says: ["backed by 4"],
    backed_by: [4],
    offers: [],
    instead: "",
    passes: null,
    owed: [],
    reply: null,
    ...more,
  };
}

function line(more: Partial<Sentence>, may: string[] = ["edit_review"]): string {
  const nothing = () => Promise.resolve();
  return markup(
    <SentenceLine sentence={sentenceOf(more)} findings={NUMBERS} byKey={KEYS} onReplace={nothing} />,
    { may },
  );
}

test("a mark leads to its finding, an amount is as the finding has it, and one that is gone says so", () => {
  const html = markup(<Marked text="It loses [4 amount] [4], says [9]." findings={NUMBERS} />);
  assert.match(html, /href="\/reviews\/1\/findings\?finding=overall-averages-2"/);
  assert.ok(textOf(html).includes("It loses 12.0 %"));
  assert.ok(textOf(html).includes("[9?]"));
});

test("an interval stands in the text where the finding has one", () => {
  const html = markup(<Marked text="So much [4 interval]." findings={NUMBERS} />);
  assert.ok(textOf(html).includes("(−14.0 to −10.0 %)"));
});

test("a backed sentence says by what and offers nothing to mend", () => {
  const said = textOf(line({}));
  assert.ok(said.includes("backed by 4"));
  assert.ok(!said.includes("It is a judgement") && !said.includes("It stands"));
});

test("what the data says otherwise stands beside, and its figure can be taken", () => {
  const wrong = {
    status: "contradicted",
    status_words: "the data says otherwise",
    says: ["finding 4 says: 88.0 %"],
    instead: "Kit 2 is 12.0 % behind [4].",
  };
  const said = textOf(line(wrong));
  assert.ok(said.includes("the data says otherwise: finding 4 says: 88.0 %"));
  assert.ok(said.includes("Take its figure") && said.includes("It stands"));
  assert.ok(!textOf(line(wrong, [])).includes("Take its figure"), "a reader mends nothing");
});

test("the finding that would carry a sentence is offered by its kind", () => {
  const said = line({ status: "sourceless", status_words: "no finding behind it", offers: [PINNED.key] });
  assert.ok(textOf(said).includes("Put in: over all tests"));
  assert.ok(!textOf(line({ status: "sourceless", offers: ["gone"] })).includes("Put in"));
});

test("an answer stays with its sentence and can be taken back", () => {
  const reply = { id: 3, kind: "stands", words: "by experience", by: "Ada" };
  const said = textOf(
    line({ status: "further", status_words: "goes further than the data", says: [], reply }),
  );
  assert.ok(said.includes("stands: by experience (Ada)"));
  assert.ok(said.includes("Take the answer back") && !said.includes("It is a judgement"));
});

test("a sentence with nothing to check has nothing beside it", () => {
  const said = textOf(
    line({ text: "We met in May.", status: "nothing", status_words: "nothing to check", says: [] }),
  );
  assert.equal(said, "We met in May.");
});

test("a use tells what is advised by seals, with words and prices, and under which conditions", () => {
  const use: Use = {
    ...USE,
    outcome: "worth it",
    judged: [
      { column: 2, call: "not advised", note: "too slow" },
      { column: 1, call: "advised", note: "" },
    ],
    conditions: { settings: "4K", room: "21 °C", workload: "", basis: "street" },
  };
  const verdict = {
    ...EMPTY,
    uses: [use],
    sentences: [sentenceOf()],
    prices: [{ use: "a", column: 1, words: "410 €, street, 2026-01-15" }],
  };
  const html = markup(<UseSection use={use} verdict={verdict} findings={NUMBERS} byKey={KEYS} />);
  const said = textOf(html);
  assert.ok(said.includes("For the dome worth it take"));
  assert.ok(said.indexOf("take") < said.indexOf("too slow"), "what is advised is told first");
  assert.ok(said.includes("(410 €, street, 2026-01-15)"));
  assert.ok(said.includes("holds for 4K, 21 °C"));
  assert.ok(namesIn(html).includes("For the dome"));
  assert.ok(!said.includes("Edit"), "a reader edits nothing");
});

test("open points stand before answered ones, with where they are mended", () => {
  const point = { key: "x", kind: "hole", words: "2 cells owed", leads: "matrix", answer: null };
  const answer = { how: "accepted", words: "no wheel", by: "Ada", at: "2026-01-01T00:00:00Z" };
  const verdict = {
    ...EMPTY,
    points: [{ ...point, key: "y", words: "a flag", answer }, point],
    sentences: [sentenceOf(), sentenceOf({ status: "further", status_words: "goes further than the data" })],
  };
  const html = markup(<OpenPoints verdict={verdict} />, { may: ["edit_review"] });
  const said = textOf(html);
  assert.ok(said.includes("2 sentences checked: backed 1, goes further than the data 1."));
  assert.ok(said.includes("1 point open, 1 answered."));
  assert.match(html, /href="\/reviews\/1\/matrix"[^>]*>Mend it/);
  assert.ok(said.includes("Show all 2"));
  assert.ok(textOf(markup(<OpenPoints verdict={EMPTY} />)).includes("Nothing is open."));
});

test("signatures that were taken back stay and say why, and one person signs once", () => {
  const signature = {
    id: 1,
    role: "author",
    by: "Ada",
    username: "ada",
    at: "2026-01-01T00:00:00Z",
    stands: true,
    why_not: "",
  };
  const shown = (signatures: object[], may: string[]) =>
    textOf(
      markup(<Signatures verdict={{ ...EMPTY, answer: "Yes.", signatures: signatures as never }} />, { may }),
    );
  const both = ["edit_review", "sign"];
  assert.ok(shown([], both).includes("Sign as author Sign as second reader"));
  assert.ok(!shown([], ["sign"]).includes("Sign as author"));
  assert.ok(shown([signature], both).includes("Withdraw"));
  assert.ok(!shown([signature], both).includes("Sign as"), "who has signed does not sign again");
  const taken = { ...signature, stands: false, why_not: "taken back: the text changed since" };
  assert.ok(shown([taken], both).includes("taken back: the text changed since"));
  assert.ok(shown([taken], both).includes("Nobody stands for it yet."));
  assert.ok(shown([{ ...signature, username: "bo", by: "Bo" }], both).includes("Sign as second reader"));
});

test("nothing is signed before something is written", () => {
  assert.ok(
    !textOf(markup(<Signatures verdict={EMPTY} />, { may: ["edit_review", "sign"] })).includes("Sign as"),
  );
});

test("editions are listed with their notes, and publishing waits for signatures that the team asks for", () => {
  const record = {
    slug: "kits-1",
    edition: 1,
    published_at: "2026-01-01T00:00:00Z",
    published_by: "Ada",
    change_note: "",
    withdrawn: "",
  };
  const review = reviewOf({
    records: [{ ...record, slug: "kits-2", edition: 2, change_note: "a word" }, record],
  });
  const html = markup(<Editions verdict={EMPTY} />, { review, may: ["publish"] });
  assert.ok(textOf(html).includes("Edition 2 by Ada"));
  assert.ok(textOf(html).includes("a word"));
  assert.ok(textOf(html).includes("Publish edition 3"));
  const lacking = markup(<Editions verdict={{ ...EMPTY, lacks: ["author"] }} />, {
    review,
    may: ["publish"],
  });
  assert.match(lacking, /<button[^>]*disabled[^>]*>Publish edition 3/);
  const gone = reviewOf({ records: [{ ...record, withdrawn: "the meter was wrong" }] });
  const withdrawn = textOf(markup(<Editions verdict={EMPTY} />, { review: gone, may: ["publish"] }));
  assert.ok(withdrawn.includes("withdrawn: the meter was wrong") && !withdrawn.includes("Withdraw "));
  assert.ok(textOf(markup(<Editions verdict={EMPTY} />)).includes("An editor publishes."));
});

test("pinned findings stand by their places with their numbers, and say what changed", () => {
  const other: Finding = {
    ...FINDING,
    key: "b",
    sentence: "Second.",
    pin: { ...PIN, number: 1, position: 1 },
  };
  const first: Finding = {
    ...FINDING,
    key: "c",
    sentence: "First.",
    pin: { ...PIN, number: 7, position: 0, changed: "was −12 %, is −9 %" },
  };
  const html = markup(<PinnedList findings={[other, FINDING, first]} />, { may: ["record", "edit_review"] });
  const said = textOf(html);
  assert.ok(said.indexOf("◆7") < said.indexOf("◆1"));
  assert.ok(said.includes("was −12 %, is −9 % Seen"));
  assert.equal([...html.matchAll(/draggable="true"/g)].length, 2);
  assert.ok(textOf(markup(<PinnedList findings={[FINDING]} />)).includes("None yet."));
});

test("an empty verdict says what to do first, and only an editor is asked to", () => {
  const answers: [readonly unknown[], unknown][] = [
    [["verdict", 1], EMPTY],
    [["findings", 1], { kinds: [], findings: [], gone: [], computing: false }],
    [["hypotheses", 1], [{ id: 1, words: "It is the heat", status: "tested", grounds: "it drops at 95 °C" }]],
  ];
  const said = textOf(markup(<Verdict />, { answers, may: ["edit_review"] }));
  assert.ok(said.includes("No answer yet."));
  assert.ok(said.includes("Write the answer") && said.includes("Write the verdict"));
  assert.ok(
    said.includes("It is the heat : tested · it drops at 95 °C") || said.includes("It is the heat: tested"),
  );
  const read = textOf(markup(<Verdict />, { answers }));
  assert.ok(!read.includes("Write the answer") && !read.includes("Write the verdict"));
});
