import { createContext, useContext, type ReactNode } from "react";
import type { MatrixShape, ReviewShape } from "./client";

const ReviewContext = createContext<ReviewShape | null>(null);
const MatrixContext = createContext<MatrixShape | null>(null);

/** The review that everything below shows. */
export function ReviewProvider({ review, children }: { review: ReviewShape; children: ReactNode }) {
  return <ReviewContext.Provider value={review}>{children}</ReviewContext.Provider>;
}

/** The matrix that everything below shows. */
export function MatrixProvider({ matrix, children }: { matrix: MatrixShape; children: ReactNode }) {
  return <MatrixContext.Provider value={matrix}>{children}</MatrixContext.Provider>;
}

/** The review that is shown. */
export function useReview(): ReviewShape {
  const review = useContext(ReviewContext);
  if (review === null) throw new Error("A part of a review stands outside a ReviewProvider.");
  return review;
}

/** The matrix that is shown. */
export function useMatrix(): MatrixShape {
  const matrix = useContext(MatrixContext);
  if (matrix === null) throw new Error("A part of a matrix stands outside a MatrixProvider.");
  return matrix;
}
