import assert from "node:assert/strict";
import { test } from "node:test";
import { Account } from "../src/places/Account";
import { Inbox } from "../src/places/Inbox";
import { Comment } from "../src/talk/Comment";
import { addressOf, Talk } from "../src/talk/Talk";
import { markup, namesIn, reviewOf, testOf, textOf } from "./fixtures";

const AT = "2026-01-01T00:00:00Z";
const PEOPLE = [
  { username: "ada", display_name: "Ada" },
  { username: "bo.li", display_name: "Bo" },
];
const COMMENT = { id: 1, text: "Look.", by: "Bo", username: "bo.li", at: AT, edited_at: null, unread: false };
const THREAD = {
  id: 1,
  about: "cell",
  words: "tour, high on kit 2",
  test: 1,
  column: 2,
  owner: null,
  key: "",
  gone: false,
  closed_by: "",
  closed_at: null as string | null,
  comments: [COMMENT],
};

test("names of people in a comment are marked, and nothing else that looks like one", () => {
  const html = markup(
    <Comment comment={{ ...COMMENT, text: "@bo.li, ask @nobody or x@ada. <b>@ada</b>" }} people={PEOPLE} />,
  );
  const marked = [...html.matchAll(/<strong title="[^"]*">([^<]*)<\/strong>/g)].map((found) => found[1]);
  assert.deepEqual(marked, ["@bo.li", "@ada"]);
  assert.ok(html.includes("&lt;b&gt;"), "markup is text");
});

test("one's own comment can be changed, that of another not", () => {
  const own = textOf(markup(<Comment comment={{ ...COMMENT, username: "ada" }} people={PEOPLE} />));
  assert.ok(own.includes("Change"));
  assert.ok(!textOf(markup(<Comment comment={COMMENT} people={PEOPLE} />)).includes("Change"));
  assert.ok(
    textOf(markup(<Comment comment={{ ...COMMENT, unread: true }} people={PEOPLE} />)).includes("new"),
  );
});

test("a thread leads to its thing", () => {
  const review = reviewOf({ tests: [testOf(1, { shown: ["average_fps"] })] });
  assert.equal(addressOf(review, THREAD), "/reviews/1/matrix?cells=1.average_fps.2");
  assert.equal(
    addressOf(review, { ...THREAD, about: "finding", test: null, column: null, key: "sweep-1 a" }),
    "/reviews/1/findings?finding=sweep-1%20a",
  );
  assert.equal(addressOf(review, { ...THREAD, about: "sentence", test: null }), "/reviews/1/verdict");
  assert.equal(addressOf(review, { ...THREAD, about: "review", test: null, column: null }), null);
  assert.equal(addressOf(review, { ...THREAD, test: 9 }), null, "a test that is gone");
});

test("open threads are shown, closed ones are counted, and a thing that is gone keeps its words", () => {
  const threads = [
    { ...THREAD, gone: true },
    { ...THREAD, id: 2, words: "old", closed_at: AT, closed_by: "Ada" },
  ];
  const talk = { threads, open: 1, unread: 0, last: 2, people: PEOPLE };
  const said = textOf(
    markup(<Talk thing={null} onClose={() => undefined} />, { answers: [[["talk", 1], talk]] }),
  );
  assert.ok(said.includes("tour, high on kit 2 (no longer there)"));
  assert.ok(said.includes("1 closed") && !said.includes("old"));
  assert.ok(said.includes("About the review as a whole"));
});

test("a comment about a thing names it before it is written", () => {
  const talk = { threads: [], open: 0, unread: 0, last: 0, people: PEOPLE };
  const thing = { about: "finding" as const, key: "a", words: "Kit 2 is behind." };
  const html = markup(<Talk thing={thing} onClose={() => undefined} />, { answers: [[["talk", 1], talk]] });
  assert.ok(textOf(html).includes("About Kit 2 is behind."));
  assert.ok(namesIn(html).includes("A new comment"));
  assert.ok(textOf(html).includes("Nothing was said yet."));
});

const NOTICE = {
  id: 1,
  review: 1,
  question: "Does it help?",
  thread: 3,
  about: "cell",
  words: "tour on kit 2",
  text: "@ada look",
  by: "Bo",
  at: AT,
  named: true,
  read: false,
};
const MESSAGE = {
  id: 1,
  review: 1,
  question: "Does it help?",
  edition: 1,
  kind: "result",
  text: "Mine is faster.",
  machine: "a small one",
  figure: "70 fps",
  name: "",
  email: "x@reader.example",
  at: AT,
  state: "waiting",
  decided_by: "",
  answer: "",
  answered_by: "",
};

function inbox(notices: object[], messages: object[], may: string[] = []): string {
  return markup(<Inbox />, {
    may,
    answers: [
      [["inbox"], { unread: notices.length, notices }],
      [["messages"], { waiting: messages.length, messages }],
    ],
  });
}

test("the inbox says who names one, about what, and leads there", () => {
  const html = inbox([NOTICE, { ...NOTICE, id: 2, named: false, read: true }], []);
  const said = textOf(html);
  assert.ok(said.includes("names you, about tour on kit 2"));
  assert.ok(said.includes("answers in a thread of yours"));
  assert.match(html, /href="\/reviews\/1\/verdict\?talk=3"/);
  assert.ok(textOf(inbox([], [])).includes("Everything is read."));
});

test("a reader's result says that it is not verified, and only who publishes decides", () => {
  const said = textOf(inbox([], [MESSAGE], ["publish"]));
  assert.ok(said.includes("A reader sends a result under edition 1"));
  assert.ok(said.includes("70 fps on a small one not verified, in no comparison"));
  assert.ok(said.includes("Let through Refuse Answer"));
  assert.ok(!textOf(inbox([], [MESSAGE])).includes("Let through"));
  const shown = textOf(
    inbox([], [{ ...MESSAGE, state: "shown", answer: "Thanks.", answered_by: "Ada" }], ["publish"]),
  );
  assert.ok(shown.includes("Ada: Thanks.") && shown.includes("Change the answer"));
  assert.ok(!shown.includes("Let through"));
});

test("the account lists one's tokens, and what the team has agreed on to an admin alone", () => {
  const token = { id: 1, name: "nightly", scope: "recording", made_at: AT, used_at: null, secret: "" };
  const answers: [readonly unknown[], unknown][] = [
    [["tokens"], [token]],
    [["team"], { two_signatures: true }],
  ];
  const said = textOf(markup(<Account />, { answers }));
  assert.ok(said.includes("nightly") && said.includes("not used yet") && said.includes("Revoke"));
  assert.ok(!said.includes("second reader"));
  const admin = markup(<Account />, { answers, may: ["set_team"] });
  assert.match(admin, /type="checkbox"[^>]*checked/);
  assert.ok(textOf(markup(<Account />, { answers: [[["tokens"], []]] })).includes("None yet."));
});
