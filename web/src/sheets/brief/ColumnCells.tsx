import type { ReactNode } from "react";
import type { ColumnShape } from "../../api/client";
import { useReview } from "../../api/review";

/** A cell for each configuration that can still be changed; one with passes says that it has them. */
export function ColumnCells({ children }: { children: (column: ColumnShape) => ReactNode }) {
  const review = useReview();
  return review.columns.map((column) => (
    <td key={column.id} className="border-l border-line px-2.5 py-1.5">
      {column.has_passes ? <span className="text-quiet">has passes</span> : children(column)}
    </td>
  ));
}
