import assert from "node:assert/strict";
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import ts from "typescript";
import { catalogueOf, keyed } from "../texts/catalogue";
import { messagesOf } from "../texts/messages";
import { translated } from "../texts/translated";
import { count } from "../src/marks/words";

const texts = (code: string) => messagesOf("a.tsx", code).map((one) => one.text);

test("text between elements is one sentence, with places for what is filled in", () => {
  const code = `const a = <p className="mt-2 text-note">
      Pooled {low} over <b>{n} frames</b>
      of{" "}the run{/* all of it */}.
    </p>;`;
  assert.deepEqual(texts(code), ["Pooled {0} over {1}of the run.", "{0} frames"]);
});

test("what is read is found wherever it stands, and what the browser or the server is told is not", () => {
  const code = `
    const LOOKS = [{ key: "over time", label: "light", tone: "text-quiet" }];
    if (kind === "Held open") navigate("/reviews/1");
    const said = done ? "Saved." : \`\${n} more to do\`;
    throw new Error("The server failed");
    const field = <Field label="at" name="Name of it" hint={may ? "for all" : undefined} className={away ? "flex gap-2" : ""} />;
    act("PUT", \`/api/reviews/\${id}\`, { said: "Kept." });
    const words = { "no margin": 1 }["no margin"];
    type Way = "By hand";`;
  assert.deepEqual(texts(code), ["light", "Saved.", "{0} more to do", "The server failed", "at", "for all"]);
});

test("a text that the source compares with something is a value and is left alone", () => {
  const code = `const NAMES = ["By hand", "At once"]; if (way === "By hand") go();`;
  assert.deepEqual(texts(code), ["At once"]);
});

test("a number of things has as many forms as the language wants", () => {
  assert.deepEqual(texts('count(n, "pass", "passes") + count(n, "test")'), ["pass|passes", "test|tests"]);
  assert.equal(
    translated("a.ts", 'count(n, "test")', () => "Prüfung|Prüfungen"),
    'count(n, "Prüfung|Prüfungen")',
  );
  assert.deepEqual(
    [count(1, "Prüfung|Prüfungen"), count(0, "Prüfung|Prüfungen")],
    ["1 Prüfung", "0 Prüfungen"],
  );
});

test("a translation may turn round what is filled in, in sentences, attributes and templates", () => {
  const said: Record<string, string> = {
    "{0} of {1} passes": "von {1} Pässen {0}",
    "all of it": 'alles "davon"',
    "Name it": "Benenne es",
    "{0} is kept": "`${behalten}` ist {0}",
  };
  const code =
    'const a = <p title={`${b} is kept`}>{n} of <b aria-label="Name it">all of it</b> passes</p>; const c = "left alone";';
  assert.equal(
    translated("a.tsx", code, (text) => said[text]),
    'const a = <p title={`\\`\\${behalten}\\` ist ${b}`}>{"von "}<b aria-label={"Benenne es"}>{"alles \\"davon\\""}</b>{" Pässen "}{n}</p>; const c = "left alone";',
  );
});

test("a catalogue has each text of a file once, under a key of its first words", () => {
  const folder = mkdtempSync(join(tmpdir(), "texts-"));
  try {
    mkdirSync(join(folder, "places"));
    writeFileSync(
      join(folder, "places", "Shelf.tsx"),
      "<p>Is it there?</p>; <p>Is it there?</p>; <p>Is it there!</p>",
    );
    writeFileSync(join(folder, "plain.ts"), 'export const a = "flex gap-2";');
    assert.deepEqual(catalogueOf(folder), {
      "places/Shelf": { "is-it-there": "Is it there?", "is-it-there-2": "Is it there!" },
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
  assert.equal(keyed("a.tsx", "<p>One two three four five six seven</p>").size, 1);
});

test("every source is still a program after all its texts were put into another language", () => {
  const files = readdirSync("src", { recursive: true, encoding: "utf8" }).filter(
    (path) => /\.tsx?$/.test(path) && !path.endsWith(".d.ts"),
  );
  assert.ok(files.length > 200);
  for (const path of files) {
    const code = readFileSync(join("src", path), "utf8");
    // With what a translation may well bring: quotes, braces, a backslash, and its places the other way round.
    const other = translated(
      path,
      code,
      (text) => `“${text.replace(/(.*)(\{\d\})(.*)(\{\d\})/s, "$1$4$3$2")}” {\\ \`"<`,
    );
    const options = {
      compilerOptions: { jsx: ts.JsxEmit.ReactJSX },
      fileName: path,
      reportDiagnostics: true,
    };
    const wrong = ts.transpileModule(other, options).diagnostics?.map((one) => one.messageText);
    assert.deepEqual(wrong, [], path);
  }
});
