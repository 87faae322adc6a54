import { grouped, said, write } from "../src/design/writing";
import assert from "node:assert/strict";
import { test } from "node:test";
import {
  bytes,
  clock,
  count,
  difference,
  duration,
  figure,
  setting,
  signed,
  unbroken,
  withUnit,
} from "../src/marks/words";
import { usualHalfWidth, type Vocabulary } from "../src/api/vocabulary";
import { landingWords, readingWords } from "../src/sheets/matrix/ledger/words";

test("figures have three significant digits and a true minus", () => {
  for (const [value, words] of [
    [1234.5, "1235"],
    [94.13, "94.1"],
    [0, "0"],
    [-0.01234, "−0.0123"],
  ] as const) {
    assert.equal(figure(value), words);
  }
});

test("a difference that rounds to nothing has no sign", () => {
  assert.deepEqual(
    [signed(0.04), signed(-0.04), signed(0.06), signed(-30.77)],
    ["0.0", "0.0", "+0.1", "−30.8"],
  );
  assert.equal(difference(-30.77, "ratio", "W"), "−30.8 %");
  assert.equal(difference(7.1e26, "ratio", "fps"), "over +1 million %");
  assert.equal(difference(-2e6, "difference", "points"), "under −1 million points");
  assert.equal(difference(-5, "difference", "dB(A)"), "−5.00 dB(A)");
  assert.equal(difference(-5, "difference", "°C"), "−5.00 K");
});

test("no line ends between a number and its unit", () => {
  assert.equal(
    unbroken("28 W against 35 W: +64.2 % in 4 tests, 3 s longer at 2.5 W/h"),
    "28\u00a0W against 35\u00a0W: +64.2\u00a0% in 4 tests, 3\u00a0s longer at 2.5 W/h",
  );
});

test("what is counted is whole, what is measured is not", () => {
  assert.equal(withUnit(8, "cameras"), "8 cameras");
  assert.equal(withUnit(8.0000000001, "cameras"), "8 cameras");
  assert.equal(withUnit(60, "fps"), "60.0 fps");
});

test("durations change their unit at 90 s and 90 min", () => {
  assert.deepEqual(
    [duration(89), duration(90), duration(5399), duration(5400)],
    ["89 s", "2 min", "90 min", "1 h 30 min"],
  );
  assert.deepEqual([clock(0), clock(59.6), clock(102), clock(3787)], ["0:00", "1:00", "1:42", "1:03:07"]);
});

test("plurals and sizes", () => {
  assert.deepEqual([count(1, "pass"), count(2, "pass"), count(0, "file")], ["1 pass", "2 passes", "0 files"]);
  assert.deepEqual(
    [bytes(999), bytes(1000), bytes(2_500_000), bytes(7.5e10)],
    ["999 B", "1.00 kB", "2.50 MB", "75.0 GB"],
  );
});

test("a setting is told with the unit at the end of its key", () => {
  assert.equal(setting("power_limit_w", 35), "power limit 35 W");
  assert.equal(setting("detail", "high"), "detail high");
});

test("a reading is told as it was understood", () => {
  const landing = { missing: "", value: 53.5, outcome: "", half_width: 1.5, bound: "", number: 1, new: true };
  const told = (changes: object, unit: string) =>
    readingWords({ ...landing, ...changes } as never, unit, { crashed: "crashed on the way" });
  assert.equal(told({}, "°C"), "53.5 ± 1.5 °C");
  assert.equal(told({ half_width: null, bound: "over", value: 200 }, "fps"), "over 200.0 fps");
  assert.equal(told({ value: null, outcome: "crashed" }, "fps"), "crashed on the way");
  assert.equal(told({ value: null, outcome: "unheard of" }, "fps"), "unheard of");
  assert.equal(told({ missing: "not shown" }, "fps"), "not shown");
});

test("where a reading lands", () => {
  assert.equal(landingWords({ missing: "not run", number: 1, new: true } as never), "noted, no pass");
  assert.equal(landingWords({ missing: "", number: 2, new: true } as never), "pass 2");
  assert.equal(landingWords({ missing: "", number: 2, new: false } as never), "onto pass 2");
});

test("the half-width proposed is that of the unit, else that of any unit, else none", () => {
  const methods: Vocabulary["reading_methods"] = [
    { name: "stopwatch", usual: { s: 0.2, "": 0 } },
    { name: "remembered", usual: {} },
  ];
  assert.equal(usualHalfWidth(methods, "stopwatch", "s"), "0.2");
  assert.equal(usualHalfWidth(methods, "stopwatch", "fps"), "0");
  assert.equal(usualHalfWidth(methods, "remembered", "fps"), "");
  assert.equal(usualHalfWidth([], "stopwatch", "s"), "");
});

/** What an act gives while numbers are written so. */
function written<T>(numbers: string, degrees: string, act: () => T): T {
  write({ numbers, degrees });
  try {
    return act();
  } finally {
    write({ numbers: "point", degrees: "C" });
  }
}

test("a decimal comma stands in every number that is written, and in the server's sentences", () => {
  written("comma", "C", () => {
    assert.deepEqual(
      [figure(94.13), signed(-3.46), withUnit(61.52, "°C"), grouped(102000), figure(1234.5)],
      ["94,1", "−3,5", "61,5 °C", "102.000", "1235"],
    );
    for (const [sentence, read] of [
      ["B draws 3.4 % more (+1.2 to +5.0 %).", "B draws 3,4 % more (+1,2 to +5,0 %)."],
      [
        "It takes 10.5 to 12.25 s, ± 0.5 s, 1.33 × as fast.",
        "It takes 10,5 to 12,25 s, ± 0,5 s, 1,33 × as fast.",
      ],
      [
        "Reef Walk 1.2 ran on driver 31.0.2 with 8.5\u00a0GB.",
        "Reef Walk 1.2 ran on driver 31.0.2 with 8,5\u00a0GB.",
      ],
      ["3.5 of 8 GB, 1.02 to 2.00 hitches per minute", "3,5 of 8 GB, 1,02 to 2,00 hitches per minute"],
      ["settled by 5 passes.", "settled by 5 passes."],
    ] as const) {
      assert.equal(said(sentence), read);
    }
  });
  assert.equal(said("61.5 °C, 3.4 %"), "61.5 °C, 3.4 %");
});

test("who reads °F is told warmth and differences of it in °F", () => {
  written("point", "F", () => {
    assert.deepEqual(
      [withUnit(100, "°C"), withUnit(-40, "°C"), difference(5, "difference", "°C"), withUnit(65, "W")],
      ["212 °F", "−40.0 °F", "+9.00 °F", "65.0 W"],
    );
    for (const [sentence, read] of [
      [
        "Hottest at 85 °C, after 40 s; 10.0 K under the part's limit.",
        "Hottest at 185 °F, after 40 s; 18.0 °F under the part's limit.",
      ],
      ["from −20 to 5 °C", "from −4 to 41 °F"],
      ["−5.0 K (−10.0 to +2.5 K), margin ± 2 °C", "−9.0 °F (−18.0 to +4.5 °F), margin ± 4 °F"],
      ["a 4K picture at 60 fps", "a 4K picture at 60 fps"],
    ] as const) {
      assert.equal(said(sentence), read);
    }
  });
});
