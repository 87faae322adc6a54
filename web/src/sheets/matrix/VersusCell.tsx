import type { CellShape, RowShape } from "../../api/client";
import { VersusMark } from "../../marks/VersusMark";
import { count, difference, signed, verdictInk, withUnit } from "../../marks/words";

interface Props {
  row: RowShape;
  cell: CellShape;
  margin: number;
  reach: number;
  isBaseline: boolean;
}

/** The baseline's figure, or the difference from it with its interval and verdict. */
export function VersusCell({ row, cell, margin, reach, isBaseline }: Props) {
  if (isBaseline) {
    return (
      <div className="whitespace-nowrap">
        <strong className="text-[15px]">{withUnit(cell.centre, row.unit)}</strong>{" "}
        <span className="text-note text-quiet">
          {cell.half_pct !== null && `± ${cell.half_pct.toFixed(1)} % · `}
          {count(cell.n, "pass")}
        </span>
      </div>
    );
  }
  const c = cell.comparison;
  if (!c) {
    return (
      <div className="text-note">
        {withUnit(cell.centre, row.unit)} <span className="text-quiet">{cell.why_not}</span>
      </div>
    );
  }
  const needed = c.verdict === "undecided" && settling(c);
  return (
    <div className="flex max-w-96 items-center justify-between gap-2">
      <div className="min-w-0">
        <div className="whitespace-nowrap">
          <strong className="text-[15px]">{difference(c.effect_pct, row.scale, row.unit)}</strong>
          {needed && <span className="pl-2 text-small text-quiet">{needed}</span>}
        </div>
        <div className="text-small whitespace-nowrap">
          <span className={verdictInk(c.verdict)}>{c.verdict}</span>
          {c.low_pct !== null && c.high_pct !== null && (
            <span className="text-quiet">
              {" "}
              {signed(c.low_pct)} to {signed(c.high_pct)}
            </span>
          )}
        </div>
      </div>
      {row.scale === "ratio" && (
        <VersusMark
          effect={c.effect_pct}
          low={c.low_pct}
          high={c.high_pct}
          verdict={c.verdict}
          margin={margin}
          reach={reach}
        />
      )}
    </div>
  );
}

type Comparison = NonNullable<CellShape["comparison"]>;

/** What would settle an undecided comparison. Enough passes for the margin may be there and the verdict still open. */
export function settling(c: Comparison): string {
  if (c.passes_needed === null) return "over 50 passes needed";
  if (c.passes_needed <= Math.min(c.n, c.n_baseline)) return "near the margin";
  return `settled by ${c.passes_needed} passes`;
}
