import assert from "node:assert/strict";
import { test } from "node:test";
import { BandsChart, ratioTicks } from "../src/marks/BandsChart";
import { cellsAddress, Drawn } from "../src/sheets/findings/Drawn";
import { markup, namesIn, textOf } from "./fixtures";

const BAND = {
  column: 2,
  label: "kit 2",
  better: -12,
  low: -14,
  high: -10,
  told: "−12.0 %",
  interval: "−14.0 to −10.0 %",
  verdict: "behind",
  dots: [{ test: 1, name: "tour", better: -20, told: "−20.0 %" }],
};
const FINDING = {
  key: "overall-averages-2",
  kind: "overall",
  kind_words: "over all tests",
  sentence: "Over 2 tests, the averages of kit 2 come to 88.0 % of kit 1, 86.0 to 90.0 %: behind.",
  sure: "decided" as const,
  columns: [1, 2],
  tests: [1, 2],
  cells: [1, 2, 3, 4].flatMap((id) => [1, 2].map((column) => ({ test: id, column, metric: "average_fps" }))),
  caveats: ["fan profile differs, and is not what this review varies."],
  left_out: ["Loom: held at one rate"],
  section: "4",
  margin_pct: 3,
  bands: [BAND],
  heads: ["test", "kit 2"],
  lines: [["tour", "−20.0 %"]],
};

test("a narrow axis is named in per cent, a wide one in multiples, and the baseline is on it", () => {
  assert.deepEqual(
    ratioTicks(0.84, 1.04).map((one) => one.words),
    ["85 %", "90 %", "95 %", "100 %"],
  );
  assert.deepEqual(
    ratioTicks(0.3, 8).map((one) => one.words),
    ["0.5 ×", "1 ×", "2 ×", "5 ×"],
  );
});

test("a chart of changes says in its name and its table what it draws", () => {
  const html = markup(
    <BandsChart
      bands={[BAND]}
      margin={3}
      label={FINDING.sentence}
      caption="Better is to the right."
      table={{ columns: FINDING.heads, rows: FINDING.lines }}
    />,
  );
  assert.ok(namesIn(html).includes(FINDING.sentence));
  assert.ok(textOf(html).includes("Better is to the right."));
  assert.ok(textOf(html).includes("tour −20.0 %"));
});

test("a finding says what is left out, what is to be kept in mind, and what it rests on", () => {
  const said = textOf(markup(<Drawn finding={FINDING} />));
  assert.ok(said.includes("Left out: Loom: held at one rate."));
  assert.ok(said.includes("fan profile differs"));
  assert.ok(said.includes("8 cells of 2 tests , method 4."));
});

test("no more cells are opened at once than the matrix lays over one another", () => {
  const address = cellsAddress(1, FINDING);
  assert.equal(address.split("cells=")[1]?.split(",").length, 6);
  assert.ok(address.startsWith("/reviews/1/matrix?lens=versus&cells=1.average_fps.1,"));
  assert.equal(cellsAddress(1, { cells: [] }), "/reviews/1/matrix?lens=versus");
});
