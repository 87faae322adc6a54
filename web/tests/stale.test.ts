import assert from "node:assert/strict";
import { test } from "node:test";
import type { ReviewShape } from "../src/api/client";
import { newest } from "../src/api/queries";
import { isKind, refresh, STALE, staleKeys } from "../src/api/stale";

test("a new pass makes stale all that is said about its cell, in its own review only", () => {
  const keys = staleKeys("pass", 5).map((key) => key.join("."));
  for (const key of [
    "matrix.5",
    "cell.5",
    "completeness.5",
    "pairs.5",
    "recorder.5",
    "enough.5",
    "specified.5",
  ]) {
    assert.ok(keys.includes(key), key);
  }
});

test("a trace that somebody has open follows a colleague's cut", () => {
  for (const kind of ["pass"] as const) {
    assert.ok(
      STALE[kind].some((key) => key === "trace"),
      kind,
    );
  }
});

test("without a review every review's queries are stale", () => {
  assert.ok(staleKeys("pass").some((key) => key.length === 1 && key[0] === "matrix"));
});

test("a kind that nobody knows is none", () => {
  assert.ok(isKind("pass"));
  assert.ok(!isKind("weather"));
});

test("refreshing asks for each stale query once", async () => {
  const asked: unknown[] = [];
  const client = { invalidateQueries: async (filter: unknown) => void asked.push(filter) };
  await refresh(client as never, "pass", 5);
  assert.equal(asked.length, staleKeys("pass", 5).length);
  assert.equal(new Set(asked.map((one) => JSON.stringify(one))).size, asked.length);
});

test("an answer that one's own edit has overtaken does not take the edit back", () => {
  const review = { id: 1, version: 4, question: "?", tests: [{ id: 1 }] } as unknown as ReviewShape;
  const edited = { ...review, version: 5, question: "now" };
  assert.equal(newest(edited, review), edited);
  assert.equal(newest(review, edited).question, "now");
  assert.equal(newest(undefined, review).version, 4);
  assert.equal(newest(edited, { ...review, id: 2 }).id, 2);
  // What did not change is the same object, so that nothing is drawn anew for it.
  assert.equal(newest(review, edited).tests, review.tests);
});
