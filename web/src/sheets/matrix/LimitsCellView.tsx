import type { Shapes } from "../../api/client";
import { Bands } from "../../marks/Bands";
import { fixed } from "../../marks/words";

type LimitsCell = Shapes["LimitsCell"];

/** What held a cell back, with the shares of its seconds and what else is worth a look. */
export function LimitsCellView({ cell, masked }: { cell: LimitsCell; masked: string | undefined }) {
  const shares = laidOut(cell);
  const first = cell.shares[0];
  return (
    <div className="py-0.5">
      <div className="flex items-baseline gap-2 whitespace-nowrap">
        <strong className="truncate">{cell.words}</strong>
        {first && <span className="ml-auto text-small text-quiet">{percent(first.share)}</span>}
      </div>
      <Bands bands={shares} from={0} to={1} height={9} wordless label={shareWords(cell)} />
      <div className="truncate text-small text-quiet" title={cell.notes.join("; ")}>
        {cell.notes.join(" · ") || (cell.missing.length > 0 && `no sensor: ${cell.missing.join(", ")}`)}
      </div>
      {masked && (
        <div className="truncate text-small text-mark" title={masked}>
          ⚑ hides a difference
        </div>
      )}
    </div>
  );
}

/** The shares side by side, on an axis from 0 to 1. */
export function laidOut(cell: LimitsCell) {
  return cell.shares.map((one, index) => {
    const from = cell.shares.slice(0, index).reduce((sum, before) => sum + before.share, 0);
    return {
      kind: one.kind,
      from,
      to: from + one.share,
      words: `${one.kind}: ${percent(one.share)}${one.evidence && `, ${one.evidence}`}`,
    };
  });
}

export function shareWords(cell: LimitsCell): string {
  return cell.shares.map((one) => `${one.kind} ${percent(one.share)}`).join(", ");
}

export function percent(share: number): string {
  const value = 100 * share;
  return value > 0 && value < 1 ? "under 1 %" : `${fixed(value, 0)} %`;
}
