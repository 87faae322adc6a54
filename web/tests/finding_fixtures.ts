import type { Finding } from "../src/sheets/findings/listed";

export const BAND = {
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
export const FINDING: Finding = {
  enough: [],
  key: "overall-averages-2",
  kind: "overall",
  kind_words: "over all tests",
  sentence: "Over 2 tests, the averages of kit 2 come to 88.0 % of kit 1, 86.0 to 90.0 %: behind.",
  sure: "decided",
  columns: [1, 2],
  tests: [1, 2],
  cells: [1, 2, 3, 4].flatMap((id) => [1, 2].map((column) => ({ test: id, column, metric: "average_fps" }))),
  caveats: ["fan profile differs, and is not what this review varies."],
  left_out: ["Loom: held at one rate"],
  section: "4",
  margin_pct: 3,
  told: "−12.0 %",
  verdict: "behind",
  bands: [BAND],
  curves: null,
  extents: null,
  acts: [],
  expected: [{ words: "kit 2 level with kit 1", held: "not held" }],
  offers: ["role"],
  drawn: null,
  drawn_by: "",
  pin: null,
  heads: ["test", "kit 2"],
  lines: [["tour", "−20.0 %"]],
};

const nothing = () => Promise.resolve();
export const PINS = { toggle: nothing, note: nothing, move: nothing, seen: nothing, unpin: nothing };
export const PIN = { id: 1, number: 1, position: 0, note: "", said: "", by: "Editor", changed: "" };
