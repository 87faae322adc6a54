import assert from "node:assert/strict";
import { test } from "node:test";
import type { ReviewShape } from "../src/api/client";
import { Expectations } from "../src/sheets/brief/Expectations";
import { ConfigurationOptions } from "../src/sheets/ConfigurationOptions";
import { FINDING } from "./finding_fixtures";
import { columnOf, markup, namesIn, reviewOf, testOf, textOf } from "./fixtures";

type Expectation = ReviewShape["expectations"][number];

const LEVEL: Expectation = {
  column: 2,
  word: "level",
  of: 1,
  by_at_most_pct: null,
  role: "averages",
  test: null,
};

function shown(expectations: Expectation[], may: string[] = [], held: Record<number, string> = {}): string {
  const findings = Object.entries(held).map(([at, verdict]) => ({
    ...FINDING,
    key: `expected-${at}`,
    verdict,
  }));
  return markup(<Expectations />, {
    review: reviewOf({ expectations, tests: [testOf(1)] }),
    may,
    answers: [[["findings", 1], { kinds: [], findings, gone: [], computing: false }]],
  });
}

test("an expectation is said in words, with its amount, its figures and its test", () => {
  assert.match(textOf(shown([LEVEL])), /kit 2 is level with .*kit 1$/);
  const behind: Expectation = { ...LEVEL, word: "behind", by_at_most_pct: 10, role: "lows", test: 1 };
  assert.equal(
    textOf(shown([behind])),
    "B kit 2 is behind A kit 1, by 10 % at most , in the 1 % lows, in tour, high",
  );
});

test("each is told with what came of it, and one that nobody can tell yet without", () => {
  const said = textOf(shown([LEVEL, { ...LEVEL, word: "ahead" }], [], { 1: "held", 2: "not held" }));
  assert.match(said, /level with .*kit 1 : held .*ahead of .*kit 1 : not held$/);
  assert.ok(!textOf(shown([LEVEL])).includes(": held"));
});

test("a configuration that was taken out of the review does not take its expectation along", () => {
  assert.ok(
    textOf(shown([{ ...LEVEL, column: 9 }])).startsWith("a configuration that has gone is level with"),
  );
});

test("only who may edit the review is offered to add and to remove, and nobody sees an empty list", () => {
  assert.equal(textOf(shown([])), "");
  assert.equal(textOf(shown([], ["edit_review"])), "Expect something that can be checked");
  assert.ok(!textOf(shown([LEVEL])).includes("Remove"));
  assert.ok(textOf(shown([LEVEL], ["edit_review"])).includes("Remove"));
  assert.deepEqual(
    namesIn(shown([LEVEL])).filter((name) => name.startsWith("Expect")),
    ["Expectations in a form"],
  );
});

test("with a single configuration nothing can be expected of another", () => {
  const html = markup(<Expectations />, {
    review: reviewOf({ columns: [columnOf(1)], expectations: [] }),
    may: ["edit_review"],
  });
  assert.equal(textOf(html), "");
});

test("configurations are offered by their labels in their order", () => {
  const review = reviewOf({ columns: [columnOf(5, { label: "slow" }), columnOf(2, { label: "fast" })] });
  const html = markup(
    <select>
      <ConfigurationOptions review={review} />
    </select>,
    { review },
  );
  assert.match(html, /^<select><option value="5">slow<\/option><option value="2">fast<\/option><\/select>/);
});
