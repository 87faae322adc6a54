import { useState } from "react";
import { Button } from "../../design/Button";
import { Seal } from "../../marks/Seal";
import { allOf, NameFactor } from "./NameFactor";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";

/** What the review varies on purpose, with the level of each configuration. */
export function Factors() {
  const may = useMay()("edit_review");
  const review = useReview();
  const act = useBriefAct(review);
  const [naming, setNaming] = useState(false);
  return (
    <section aria-label="Factors">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-serif text-lead font-semibold">What this review varies</h2>
        {may && review.columns.length > 1 && (
          <Button kind="link" onClick={() => setNaming(true)}>
            A factor that is no setting
          </Button>
        )}
      </div>
      {review.factors.length === 0 && (
        <p className="text-note text-quiet">
          Nothing is declared yet. Declare a difference in the table below as the factor.
        </p>
      )}
      <ul>
        {review.factors.map((factor) => (
          <li
            key={factor.key}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-line py-1.5 text-note"
          >
            <strong className="min-w-32">{factor.name}</strong>
            {factor.levels.map((level) => (
              <span key={level} className="flex items-center gap-1">
                {review.columns
                  .filter((column) => column.levels[factor.key] === level)
                  .map((column) => (
                    <Seal
                      key={column.id}
                      position={column.position}
                      label={column.label}
                      baseline={column.is_baseline}
                      size={17}
                    />
                  ))}
                {level}
              </span>
            ))}
            {may && (
              <Button
                kind="link"
                className="ml-auto"
                onClick={() =>
                  void act("DELETE", `/factors/${factor.key}`, undefined, {
                    said: `${factor.name} is no longer a factor.`,
                    undo: factor.aspects.length
                      ? () => act("POST", "/factors", { aspects: factor.aspects, name: factor.name })
                      : (saved) => act("PUT", "/factors", allOf(review), { tag: saved.factors_tag }),
                  })
                }
              >
                no longer
              </Button>
            )}
          </li>
        ))}
      </ul>
      {naming && <NameFactor onClose={() => setNaming(false)} />}
    </section>
  );
}
