import type { MatrixShape, ReviewShape } from "../../api/client";
import { Button } from "../../design/Button";
import { PipLegend } from "../../marks/Pips";
import { Seal } from "../../marks/Seal";
import { count } from "../../marks/words";
import { EvidenceMenu } from "./evidence/EvidenceMenu";
import { LENSES, type Lens } from "./place";

const NAMES: Record<Lens, string> = {
  progress: "Progress",
  figures: "Figures",
  versus: "Versus",
  limits: "Limits",
};

interface Props {
  lens: Lens;
  onLens: (lens: Lens) => void;
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
      <div role="tablist" aria-label="Lens" className="flex border border-line bg-sheet">
        {LENSES.map((one, at) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === lens}
            onClick={() => onLens(one)}
            className={`border-r border-line px-3 py-1 text-note last:border-r-0 ${one === lens ? "bg-bar text-on-bar" : "hover:bg-band"}`}
          >
            <span className={`mr-1.5 text-small ${one === lens ? "text-on-bar-quiet" : "text-quiet"}`}>
              {at + 1}
            </span>
            {NAMES[one]}
          </button>
        ))}
      </div>
      <Explained lens={lens} matrix={matrix} review={review} />
      <div className="ml-auto flex flex-wrap items-center gap-x-4 gap-y-2 text-note text-quiet">
        <span>{state.length ? state.join(" · ") : "nothing owed"}</span>
        <EvidenceMenu review={review} matrix={matrix} may={may} />
        {onBring && <Button onClick={onBring}>Bring in files</Button>}
        {onTyping && (
          <Button aria-pressed={typing} kind={typing ? "strong" : "plain"} onClick={() => onTyping(!typing)}>
            {typing ? "Done typing" : "Type in"}
          </Button>
        )}
        {onAsk && <Button onClick={onAsk}>Ask for passes</Button>}
      </div>
    </div>
  );
}

function Explained({ lens, matrix, review }: { lens: Lens; matrix: MatrixShape; review: ReviewShape }) {
  if (lens === "progress") return <PipLegend />;
  if (lens === "figures") {
    return (
      <span className="text-note text-quiet">
        wide end: average · bar: 1 % low · point: 0.1 % low · end: 95 % interval
      </span>
    );
  }
  if (lens === "limits") {
    return (
      <span className="text-note text-quiet">what held each cell back, by the share of its seconds</span>
    );
  }
  const baseline = review.columns.find((column) => column.id === matrix.baseline);
  return (
    <span className="flex items-center gap-1.5 text-note text-quiet">
      against {baseline && <Seal position={baseline.position} label={baseline.label} baseline size={20} />}
      {baseline?.label} · shaded: ±{matrix.margin_pct} % · bars: 95 % intervals, pooled noise
    </span>
  );
}
