import { Link } from "react-router";
import type { Shapes } from "../api/client";
import { Dialog } from "../design/Dialog";
import { count, spread, withUnit } from "../marks/words";
import { dayWords } from "../places/standings/day";

interface Props {
  reference: Shapes["ReferenceShape"];
  cell: Shapes["ReferenceCell"];
  row: string;
  onClose: () => void;
}

/** A cell of a reference, read out: what it was, how it stands, and why. */
export function ReferenceDialog({ reference, cell, row, onClose }: Props) {
  const half = cell.half === null ? "" : ` ± ${spread(cell.half, cell.unit)}`;
  return (
    <Dialog open onClose={onClose} title={`${row}: ${reference.label}`}>
      <p className="mb-2 font-serif text-lead">
        {cell.sentence || `${cell.centre === null ? "none" : withUnit(cell.centre, cell.unit)}`}
      </p>
      <dl className="mb-3 grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1 text-note">
        <dt className="text-quiet">as it was</dt>
        <dd>
          {cell.centre === null ? "none" : withUnit(cell.centre, cell.unit)}
          {half}
          {cell.n > 0 && `, ${count(cell.n, "pass")}`}
        </dd>
        <dt className="text-quiet">from</dt>
        <dd>
          {reference.source_review === null ? (
            reference.source
          ) : (
            <Link className="underline" to={`/reviews/${reference.source_review}/matrix`}>
              {reference.source}
            </Link>
          )}
          , {dayWords(reference.day)}
        </dd>
        <dt className="text-quiet">stands</dt>
        <dd>
          {{ "": "alone, as the baseline has no result here", foreign: "in no verdict" }[cell.place] ??
            cell.place}
          {cell.reasons.map((why) => (
            <div key={why.words}>{why.words}</div>
          ))}
        </dd>
        <dt className="text-quiet">taken</dt>
        <dd>
          by {reference.taken_by}, sealed <code title={reference.seal}>{reference.seal.slice(0, 12)}</code>
          {reference.since_changed && "; its review says something else by now"}
        </dd>
      </dl>
    </Dialog>
  );
}
