import type { ReviewShape } from "../api/client";

/** The configurations of a review, to choose one of. */
export function ConfigurationOptions({ review }: { review: ReviewShape }) {
  return review.columns.map((column) => (
    <option key={column.id} value={column.id}>
      {column.label}
    </option>
  ));
}
