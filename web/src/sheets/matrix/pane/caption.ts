import type { MatrixShape, ReviewShape, TestShape } from "../../../api/client";
import type { Caption } from "../../../marks/picture";
import { count } from "../../../marks/words";
import type { ChosenPass } from "./chosen";

/** What a saved picture says of itself: the test, what is 100 %, which low, which passes. */
export function captionOf(
  review: ReviewShape,
  matrix: MatrixShape,
  test: TestShape | undefined,
  chosen: ChosenPass[],
  lines: string[],
): Caption {
  const left = [
    test?.skip_s ? `first ${test.skip_s} s left out` : "",
    test?.end_cut_s ? `last ${test.end_cut_s} s left out` : "",
  ];
  return {
    title: [test?.name, test?.detail].filter(Boolean).join(", "),
    lines: [
      ...lines,
      `1 % low: ${matrix.low_words}`,
      count(chosen.length, "pass"),
      ...left.filter(Boolean),
      review.question,
    ],
    seals: chosen.map(({ column, pass, layer }) => ({
      position: column.position,
      label: column.label,
      number: pass.number,
      layer,
    })),
  };
}
