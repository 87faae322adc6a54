import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { useReview } from "../api/review";
import { useMay } from "../api/session";
import { offersQuery, referencesQuery } from "../api/standings";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { count } from "../marks/words";
import { dayWords } from "../places/standings/day";
import { ReferenceMark } from "./ReferenceMark";
import { FromOutside } from "./FromOutside";

const SHOWN = 4;

/** What stands beside a review from others, and what earlier results would fit. */
export function ReferencesOf() {
  const review = useReview();
  const may = useMay()("edit_review");
  const run = useAct();
  const standing = useQuery(referencesQuery(review.id)).data;
  const offers = useQuery(offersQuery(review.id)).data?.filter((one) => !one.taken) ?? [];
  const [outside, setOutside] = useState(false);
  const [all, setAll] = useState(false);
  const path = `/api/reviews/${review.id}/references`;
  const take = (one: Shapes["ReferenceOffer"]) =>
    void run(() => act("POST", path, { column: one.column }), {
      said: `${one.label} stands beside, as it is now.`,
      made: "references",
    });
  const off = (one: Shapes["ReferenceShape"]) =>
    void run(() => act("PUT", `/api/references/${one.id}/taken-off`, { why: "" }), {
      said: `${one.label} is taken off.`,
      undo: () => act("DELETE", `/api/references/${one.id}/taken-off`),
      made: "references",
    });
  const references = standing?.references ?? [];
  if (!references.length && !offers.length && !may) return null;
  return (
    <section aria-label="Measured earlier" className="mt-6">
      <h2 className="mb-1 font-serif text-lead font-semibold">Measured earlier</h2>
      {references.map((one) => (
        <div key={one.id} className="flex items-start gap-2 border-t border-line py-1 text-note">
          <ReferenceMark number={one.number} label={one.label} />
          <span className="min-w-0 flex-1">
            <strong>{one.label}</strong>{" "}
            <span className="text-quiet">
              {one.source}, {dayWords(one.day)}
              {one.since_changed && "; its review says something else by now"}
            </span>
          </span>
          {may && (
            <Button kind="link" onClick={() => off(one)}>
              take off
            </Button>
          )}
        </div>
      ))}
      {offers.slice(0, all ? undefined : SHOWN).map((one) => (
        <div key={one.column} className="border-t border-line py-1 text-note">
          <span>
            {titleOf(one)}, {dayWords(one.day)}, in{" "}
            <Link className="underline" to={`/reviews/${one.review}/matrix`}>
              {one.question}
            </Link>
            {one.alone && " (measured for later)"}:{" "}
            {one.fits
              ? `has ${one.fits} of ${count(one.of, "test")}`
              : `has ${count(one.other_version, "test")} with another version`}
            {one.saves > 0 && `, saves ${count(one.saves, "pass")}`}
          </span>
          {one.measured_before.length > 0 && (
            <span className="text-quiet">; {one.measured_before.join("; ")}</span>
          )}
          {may && (
            <>
              {" "}
              <Button kind="link" onClick={() => take(one)}>
                put beside
              </Button>
            </>
          )}
        </div>
      ))}
      {!references.length && !offers.length && (
        <p className="text-note text-quiet">
          No other review has results of these tests with these settings yet.
        </p>
      )}
      <p className="flex gap-x-4 border-t border-line pt-1">
        {offers.length > SHOWN && (
          <Button kind="link" onClick={() => setAll(!all)}>
            {all ? "fewer" : `${offers.length - SHOWN} more`}
          </Button>
        )}
        {may && review.tests.length > 0 && (
          <Button kind="link" onClick={() => setOutside(true)}>
            figures from outside
          </Button>
        )}
      </p>
      {outside && <FromOutside onClose={() => setOutside(false)} />}
    </section>
  );
}

/** Machine and configuration, without saying the machine twice. */
function titleOf({ label, system }: Shapes["ReferenceOffer"]): string {
  return label.toLowerCase().includes(system.toLowerCase()) ? label : `${system}, ${label}`;
}
