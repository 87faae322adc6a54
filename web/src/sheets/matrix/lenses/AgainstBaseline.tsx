import type { ReactNode } from "react";
import { useMatrix, useReview } from "../../../api/review";
import { Seal } from "../../../marks/Seal";

/** The legend of marks that stand against the baseline: what they compare, the baseline, and how they are read. */
export function AgainstBaseline({ what, children }: { what?: string; children?: ReactNode }) {
  const review = useReview();
  const matrix = useMatrix();
  const baseline = review.columns.find((column) => column.id === matrix.baseline);
  return (
    <span className="flex items-center gap-1.5 text-note text-quiet">
      {what} against{" "}
      {baseline && <Seal position={baseline.position} label={baseline.label} baseline size={20} />}
      <span>
        {baseline?.label} · better to the right{children}
      </span>
    </span>
  );
}
