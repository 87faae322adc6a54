import { useQuery } from "@tanstack/react-query";
import { useReview } from "./review";
import { measuredBeforeQuery } from "./standings";

interface Place {
  test: number;
  column: number;
}

/** What cells of the review were measured before, in words; nothing of those that were measured since. */
export function useMeasuredBefore(): (cells: Place[]) => string[] {
  const review = useReview();
  const { data } = useQuery(measuredBeforeQuery(review.id));
  const known = new Map(data?.cells.map((one) => [`${one.test}.${one.column}`, one.words]));
  return (cells) =>
    known.size ? [...new Set(cells.flatMap((one) => known.get(`${one.test}.${one.column}`) ?? []))] : [];
}
