import type { MatrixShape, ReviewShape } from "../../api/client";
import { Button } from "../../design/Button";
import { count } from "../../marks/words";
import { EvidenceMenu } from "./evidence/EvidenceMenu";
import type { LensObject } from "./lenses/lens";
import { LENSES } from "./lenses/registry";

interface Props {
  lens: LensObject;
  onLens: (lens: string) => void;
  matrix: MatrixShape;
  review: ReviewShape;
  onAsk?: () => void;
  typing: boolean;
  onTyping?: (on: boolean) => void;
  onBring?: () => void;
  may: (act: string) => boolean;
}

/** The lenses by number, what the present one shows, and what the review still owes. */
export function LensBar({ lens, onLens, matrix, review, onAsk, typing, onTyping, onBring, may }: Props) {
  const totals = matrix.totals;
  const state = [
    totals.owed && `${count(totals.owed, "pass")} owed`,
    totals.running && `${totals.running} running`,
    totals.flagged && count(totals.flagged, "flag"),
    totals.failed && `${totals.failed} failed`,
    totals.set_aside && `${totals.set_aside} set aside`,
  ].filter(Boolean);
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-2">
      <div role="tablist" aria-label="Lens" className="flex border border-line bg-sheet print:hidden">
        {LENSES.map((one, at) => (
          <button
            key={one.key}
            type="button"
            role="tab"
            aria-selected={one === lens}
            onClick={() => onLens(one.key)}
            className={`border-r border-line px-3 py-1 text-note last:border-r-0 ${one === lens ? "bg-bar text-on-bar" : "hover:bg-band"}`}
          >
            <span className={`mr-1.5 text-small ${one === lens ? "text-on-bar-quiet" : "text-quiet"}`}>
              {at + 1}
            </span>
            {one.name}
          </button>
        ))}
      </div>
      <lens.Legend matrix={matrix} review={review} />
      <span className="hidden font-semibold print:inline">{lens.name}</span>
      <div className="ml-auto flex flex-wrap items-center gap-x-4 gap-y-2 text-note text-quiet">
        <span>{state.length ? state.join(" · ") : "nothing owed"}</span>
        <div className="contents print:hidden">
          <EvidenceMenu review={review} matrix={matrix} may={may} />
          {onBring && <Button onClick={onBring}>Bring in files</Button>}
          {onTyping && (
            <Button
              aria-pressed={typing}
              kind={typing ? "strong" : "plain"}
              onClick={() => onTyping(!typing)}
            >
              {typing ? "Done typing" : "Type in"}
            </Button>
          )}
          {onAsk && <Button onClick={onAsk}>Ask for passes</Button>}
        </div>
      </div>
    </div>
  );
}
