import assert from "node:assert/strict";
import { test } from "node:test";
import { FromElsewhere } from "../src/places/reviews/FromElsewhere";
import { People, ROLES } from "../src/places/People";
import { SecondFactor } from "../src/places/account/SecondFactor";
import { browserOf, Sessions } from "../src/places/account/Sessions";
import { strength } from "../src/design/PasswordField";
import { SignIn } from "../src/places/SignIn";
import { markup, namesIn, textOf } from "./fixtures";

const PERSON = {
  id: 1,
  username: "nora",
  display_name: "Nora Vale",
  role: "tester",
  state: "active",
  last_sign_in: null,
  second_factor: false,
  sessions: 2,
};

function people(list: object[]): string {
  return markup(<People />, { may: ["manage_people"], answers: [[["people"], list]] });
}

test("people are told with their role, state and second factor", () => {
  const said = textOf(people([PERSON, { ...PERSON, id: 2, username: "oli", state: "disabled" }]));
  for (const words of ["Nora Vale", "nora", "active", "disabled", "never", "Invite somebody"]) {
    assert.ok(said.includes(words), `${words} in ${said}`);
  }
  assert.ok(said.includes("Nobody is deleted"));
});

test("each person's role has a name for those who do not see it", () => {
  const names = namesIn(people([PERSON]));
  assert.ok(names.includes("Role of Nora Vale"), names.join(", "));
  assert.ok(names.some((name) => name.startsWith("Nora Vale: what can be done")));
  assert.deepEqual(Object.keys(ROLES), ["reader", "tester", "editor", "admin"]);
});

const VISIT = { id: "a", address: "10.0.0.7", agent: "", begun_at: null, seen_at: null, here: true };

function account(more: object): [string[], object] {
  return [["account"], { second_factor: false, recovery_codes: 0, sessions: [VISIT], ...more }];
}

test("the session of this browser is told apart and not ended here", () => {
  const alone = markup(<Sessions />, { answers: [account({})] });
  assert.ok(textOf(alone).includes("This browser"));
  assert.ok(!textOf(alone).includes("End it"));
  const agent = "Mozilla/5.0 (X11; Linux x86_64) Engine/1";
  const two = markup(<Sessions />, {
    answers: [account({ sessions: [VISIT, { ...VISIT, id: "b", here: false, agent }] })],
  });
  for (const words of ["A browser on Linux x86_64", "End it", "Sign out everywhere else", "10.0.0.7"]) {
    assert.ok(textOf(two).includes(words), `${words} in ${textOf(two)}`);
  }
});

test("a browser that says nothing of itself is a browser", () => {
  assert.equal(browserOf(""), "A browser");
  assert.equal(browserOf("x (Machine 9; y) z"), "A browser on Machine 9");
});

test("a second factor is offered, and once it is there it is taken off", () => {
  assert.ok(textOf(markup(<SecondFactor />, { answers: [account({})] })).includes("Begin a second factor"));
  const on = textOf(
    markup(<SecondFactor />, { answers: [account({ second_factor: true, recovery_codes: 1 })] }),
  );
  for (const words of ["1 recovery code is left", "Make new recovery codes", "Take the second factor off"]) {
    assert.ok(on.includes(words), `${words} in ${on}`);
  }
  assert.ok(!on.includes("Begin a second factor"));
});

test("signing in asks for a code only when the server does", () => {
  assert.ok(!textOf(markup(<SignIn from="/" />)).includes("Code"));
});

const RECORD = {
  id: 4,
  state: "ready",
  problem: "",
  question: "Does it hold?",
  origin: "https://reviews.example/records/a-1",
  edition: "2",
  checked: 1167,
  brought_by: "Nora Vale",
  brought_at: "2026-05-04T10:00:00Z",
  answer: "It holds.",
  published_by: "Oli",
  published_at: "2026-05-01",
  columns: ["one kit", "two kits"],
  tests: 4,
};

function elsewhere(list: object[], may = false): string {
  return markup(<FromElsewhere may={may} />, { answers: [[["foreign"], list]] });
}

test("a record of others tells its answer, where it is from and how much agrees", () => {
  const shown = elsewhere([RECORD]);
  for (const words of [
    "Does it hold?",
    "It holds.",
    "1167 figures and comparisons agree",
    "reviews.example",
  ]) {
    assert.ok(textOf(shown).includes(words), `${words} in ${textOf(shown)}`);
  }
  assert.ok(shown.includes('href="/foreign/4"'));
  assert.ok(!textOf(shown).includes("take off"));
});

test("one that is being checked, or was not taken, leads nowhere and says why", () => {
  const waiting = elsewhere([{ ...RECORD, state: "checking" }], true);
  assert.ok(textOf(waiting).includes("being checked"));
  assert.ok(!waiting.includes('href="/foreign/4"'));
  const refused = elsewhere([{ ...RECORD, state: "refused", problem: "figures.csv: other bytes" }], true);
  assert.ok(textOf(refused).includes("not taken"));
  assert.ok(refused.includes('role="alert"'));
  assert.ok(namesIn(refused).includes("Take off the list: Does it hold?"));
});

test("where there is none, an editor is told how one comes in, and nobody else hears of it", () => {
  assert.ok(textOf(elsewhere([], true)).includes("Bring a record in"));
  assert.ok(!elsewhere([]).includes("From elsewhere"));
});

test("a new password is judged by its length and by how many different characters it has", () => {
  for (const [typed, words] of [
    ["short", "5 of 12 characters"],
    ["aaaaaaaaaaaaaaaa", "long enough, but nearly the same character all along"],
    ["orchard-weir7", "good; longer is better"],
    ["orchard-lantern-weir-73", "strong"],
    ["ööööööööööö", "11 of 12 characters"],
  ] as const) {
    assert.equal(strength(typed), words, typed);
  }
});
