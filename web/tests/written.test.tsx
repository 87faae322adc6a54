import assert from "node:assert/strict";
import { test } from "node:test";
import { renderToStaticMarkup } from "react-dom/server";
import { write } from "../src/design/writing";

function Handed({ title, children }: { title: string; children: string }) {
  return <a title={title}>{children}</a>;
}

function markup() {
  return renderToStaticMarkup(
    <>
      <p title="61.5 °C">
        It gains {"3.4"} % at <b>61.5 °C</b>, {2} times.
      </p>
      <Handed title="−1.5 K">costs 2.5 W</Handed>
      <select>
        <option>1.5 GB</option>
      </select>
    </>,
  );
}

test("text is as the server told it for who wants nothing else", () => {
  assert.equal(
    markup(),
    '<p title="61.5 °C">It gains 3.4 % at <b>61.5 °C</b>, 2 times.</p><a title="−1.5 K">costs 2.5 W</a><select><option>1.5 GB</option></select>',
  );
});

test("numbers and warmth are written for the reader in texts, titles and what a part hands on, and in no value", () => {
  write({ numbers: "comma", degrees: "F" });
  try {
    assert.equal(
      markup(),
      '<p title="142,7 °F">It gains 3,4 % at <b>142,7 °F</b>, 2 times.</p><a title="−2,7 °F">costs 2,5 W</a><select><option>1.5 GB</option></select>',
    );
  } finally {
    write({ numbers: "point", degrees: "C" });
  }
});
