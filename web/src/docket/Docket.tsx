import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { docketQuery } from "../api/queries";
import { Button } from "../design/Button";
import { SystemOrder } from "./SystemOrder";
import { useReview } from "../api/review";
import { Hint } from "../first/Hint";
import { Term } from "../design/Term";

interface Props {
  onAsk?: () => void;
}

/** The order of work for a review, beside its matrix: one section for each system. */
export function Docket({ onAsk }: Props) {
  const review = useReview();
  const docket = useQuery(docketQuery(review.id));
  return (
    <aside className="w-80 shrink-0 border-l-2 border-ink pl-4" aria-label="Docket">
      <h2 className="font-serif text-[18px] font-semibold">
        <Term name="docket">Docket</Term>
      </h2>
      <Hint name="docket" />
      {docket.isError && <p className="text-note text-mark">{docket.error.message}</p>}
      {docket.data?.length === 0 && (
        <div className="mt-1 text-note">
          <p className="mb-2 text-quiet">No pass is owed.</p>
          {onAsk && <Button onClick={onAsk}>Ask for passes</Button>}
        </div>
      )}
      {docket.data?.map((system) => (
        <section key={system.id} className="mb-5" aria-label={system.system}>
          <p className="flex items-baseline justify-between gap-2">
            <strong>{system.system}</strong>
            <Link to={`/systems/${system.id}/docket`} className="text-note underline">
              at the machine
            </Link>
          </p>
          <SystemOrder docket={system} review={review.id} />
        </section>
      ))}
    </aside>
  );
}
