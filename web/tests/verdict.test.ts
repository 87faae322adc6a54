import assert from "node:assert/strict";
import { test } from "node:test";
import { pastable } from "../src/sheets/findings/Drawn";
import { withMark } from "../src/sheets/verdict/SentenceLine";
import { conditionWords, replaced } from "../src/sheets/verdict/UseSection";
import { fieldsOf, pieces, usesOf, type Use } from "../src/sheets/verdict/verdict";

const USE: Use = {
  key: "a",
  name: "the dome",
  outcome: "",
  judged: [],
  conditions: { settings: "", room: "", workload: "", basis: "" },
  text: "It is quiet.",
};
const VERDICT = { version: 3, answer: "Yes.", uses: [USE, { ...USE, key: "b" }] } as never;

test("a text is cut at its marks, with what each puts in", () => {
  assert.deepEqual(pieces("It costs [1 amount] [1], says [23 interval]."), [
    { words: "It costs " },
    { number: 1, what: "amount" },
    { words: " " },
    { number: 1, what: "" },
    { words: ", says " },
    { number: 23, what: "interval" },
    { words: "." },
  ]);
  assert.deepEqual(pieces("[99999] and [1 other]"), [{ words: "[99999] and [1 other]" }]);
  assert.deepEqual(pieces(""), []);
});

test("a mark goes before the full stop", () => {
  assert.equal(withMark("28 W is enough.", 2), "28 W is enough [2].");
  assert.equal(withMark("Is it?", 4), "Is it [4]?");
  assert.equal(withMark("no stop", 1), "no stop [1]");
});

test("a sentence is replaced where it stands, however its spaces are broken", () => {
  assert.equal(replaced("One. Two. Two.", "Two.", "$& three."), "One. $& three. Two.");
  assert.equal(replaced("A  long\nsentence. Next.", "A long sentence.", "Short."), "Short. Next.");
  assert.equal(replaced("Costs 9 % (more) [1].", "Costs 9 % (more) [1].", "x"), "x");
  assert.equal(replaced("Nothing of it.", "Else.", "x"), "Nothing of it.");
});

test("each use is a field of its own, in its order, and one that was taken away is gone", () => {
  const fields = fieldsOf(7, VERDICT);
  assert.deepEqual(Object.keys(fields), ["id", "version", "answer", "use:a", "use:b"]);
  assert.deepEqual(
    usesOf({ ...fields, "use:a": null, "use:c": { ...USE, key: "c" } }).map((use) => use.key),
    ["b", "c"],
  );
});

test("conditions are told in one line, or not at all", () => {
  assert.equal(conditionWords(USE), "");
  assert.equal(
    conditionWords({ ...USE, conditions: { ...USE.conditions, settings: "4K", room: "21 °C" } }),
    "holds for 4K, 21 °C",
  );
});

test("a table is copied as spreadsheets take it", () => {
  assert.equal(
    pastable({ columns: ["a", "b"], rows: [["1", "two\twords\nhere"]] }),
    "a\tb\n1\ttwo words here",
  );
});
