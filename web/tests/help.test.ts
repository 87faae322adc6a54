import assert from "node:assert/strict";
import { test } from "node:test";
import { markdown } from "../markdown";
import { anchor } from "../src/help/anchor";
import { TERMS } from "../src/design/terms";

function made(text: string): string {
  const { transform } = markdown();
  assert.ok(typeof transform === "function");
  const built = transform.call({} as never, text, "/x/docs/findings.md") as { code: string };
  return JSON.parse(built.code.slice("export default ".length)) as string;
}

test("headings and rows of the help can be linked to by their numbers and words", () => {
  const html = made(
    "## 14. Economy (watts)\n\n### Over *all* tests\n\n| kind | there when |\n|---|---|\n| 1 % `low` | a |\n",
  );
  for (const place of ['<h2 id="section-14">', '<h3 id="over-all-tests">', '<tr id="1-low">']) {
    assert.ok(html.includes(place), `${place} in ${html}`);
  }
});

test("no two words of the glossary stand in one place", () => {
  const places = Object.keys(TERMS).map(anchor);
  assert.equal(new Set(places).size, places.length);
  assert.ok(places.every((place) => /^[\p{L}\d-]+$/u.test(place)));
});
