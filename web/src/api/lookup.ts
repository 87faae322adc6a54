import type { ColumnShape, ReviewShape, TestShape } from "./client";

type Tests = Pick<ReviewShape, "tests">;
type Columns = Pick<ReviewShape, "columns">;

export function testOf(review: Tests, id: number): TestShape | undefined {
  return review.tests.find((test) => test.id === id);
}

export function columnOf(review: Columns, id: number): ColumnShape | undefined {
  return review.columns.find((column) => column.id === id);
}
