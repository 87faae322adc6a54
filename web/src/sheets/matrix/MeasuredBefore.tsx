import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { measuredBeforeQuery } from "../../api/standings";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";

/** Says which cells were measured before an update, and has the same measured anew. */
export function MeasuredBefore() {
  const review = useReview();
  const may = useMay();
  const run = useAct();
  const { data } = useQuery(measuredBeforeQuery(review.id));
  const [open, setOpen] = useState(false);
  const cells = data?.cells ?? [];
  if (!cells.length) return null;
  const why = [...new Set(cells.flatMap((cell) => cell.words))];
  const named = (cell: Shapes["MeasuredBeforeCell"]) => {
    const test = review.tests.find((one) => one.id === cell.test);
    const column = review.columns.find((one) => one.id === cell.column);
    return `${test?.name ?? ""} ${test?.short ?? ""}, ${column?.label ?? ""}`;
  };
  const again = () =>
    void run(
      async () => {
        const made = await act<Shapes["RetestShape"]>("POST", `/api/reviews/${review.id}/measured-before`);
        window.location.assign(`/reviews/${made.review}/matrix?lens=progress`);
      },
      { made: "review" },
    );
  return (
    <section
      aria-label="Measured before"
      className="mb-2 border-l-3 border-mark bg-sheet px-3 py-1.5 text-note"
    >
      <p className="flex flex-wrap items-baseline gap-x-4">
        <span>
          <span aria-hidden="true" className="text-mark">
            ⚑{" "}
          </span>
          <strong>{count(cells.length, "cell")} measured before an update:</strong>{" "}
          {why.slice(0, 3).join("; ")}
          {why.length > 3 && ` and ${why.length - 3} more`}
        </span>
        <Button kind="link" onClick={() => setOpen(!open)}>
          {open ? "hide them" : "which"}
        </Button>
        {may("edit_review") && (
          <Button kind="link" onClick={again}>
            measure the same anew, in a review of its own
          </Button>
        )}
      </p>
      {open && (
        <ul className="mt-1 list-disc pl-6">
          {cells.map((cell) => (
            <li key={`${cell.test} ${cell.column}`}>
              {named(cell)}: {cell.words.join("; ")}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
