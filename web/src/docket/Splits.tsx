import { LANGUAGE } from "../design/language";
import { useQuery } from "@tanstack/react-query";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { splitsQuery } from "../api/standings";
import { useReview } from "../api/review";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { count } from "../marks/words";

const SAID: Record<string, string> = {
  changed: "What is owed is measured with the change, in a configuration of its own.",
  "as before": "What is owed is measured as before the change.",
  drop: "What was owed is dropped.",
};

/** Asks what becomes of the passes owed of a configuration that was changed in the middle. */
export function Splits() {
  const review = useReview();
  const may = useMay()("edit_review");
  const run = useAct();
  const asked = useQuery(splitsQuery(review.id)).data ?? [];
  if (!asked.length) return null;
  const answer = (one: Shapes["SplitShape"], what: string) =>
    void run(() => act("PUT", `/api/reviews/${review.id}/splits/${one.column}`, { answer: what }), {
      said: SAID[what],
      made: "review",
    });
  return (
    <section aria-label="Changed in the middle" className="mb-2 border-l-3 border-mark bg-sheet px-3 py-1.5">
      {asked.map((one) => (
        <div key={one.column} className="text-note">
          <p>
            <span aria-hidden="true" className="text-mark">
              ⚑{" "}
            </span>
            <strong>{one.label}</strong> was changed in the middle
            {one.since && ` on ${new Date(one.since).toLocaleDateString(LANGUAGE)}`}: {one.changed.join("; ")}
            . {count(one.passes, "pass")} ran before it; what of the {one.owed} that{" "}
            {one.owed === 1 ? "is" : "are"} owed?
          </p>
          {may ? (
            <p className="mt-1 flex flex-wrap gap-x-4">
              <Button kind="link" onClick={() => answer(one, "changed")}>
                measure with the change, beside
              </Button>
              <Button kind="link" onClick={() => answer(one, "as before")}>
                measure as before
              </Button>
              <Button kind="link" onClick={() => answer(one, "drop")}>
                drop what is owed
              </Button>
            </p>
          ) : (
            <p className="text-quiet">An editor decides.</p>
          )}
        </div>
      ))}
    </section>
  );
}
