import assert from "node:assert/strict";
import { test } from "node:test";
import { titleOf } from "../src/places/standings/Against";
import { dayWords } from "../src/places/standings/day";
import { spread } from "../src/places/standings/OverTime";

test("a standing names the machine where the configuration does not", () => {
  assert.equal(titleOf({ label: "bare bench", system: "Heron", revision: 1 }), "Heron, bare bench");
  assert.equal(titleOf({ label: "Wren at 35 W", system: "Wren", revision: 1 }), "Wren at 35 W");
  assert.equal(titleOf({ label: "Wren at 35 W", system: "Wren", revision: 2 }), "Wren at 35 W, revision 2");
});

test("a standing tells the year of a day only where it is another", () => {
  const now = new Date("2026-11-27T12:00:00");
  assert.equal(dayWords("2026-11-03T12:00:00", now), "3 Nov");
  assert.equal(dayWords("2025-11-03T12:00:00", now), "3 Nov 2025");
});

test("a standing keeps names apart and in their order", () => {
  assert.deepEqual(spread([10, 12, 100]), [10, 24, 100]);
  const [first, second] = spread([50, 40]);
  assert.equal(second, 40);
  assert.equal(first, 54);
});
