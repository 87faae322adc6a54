import type { CellShape, RowShape } from "../../api/client";
import { VersusMark } from "../../marks/VersusMark";
import { count, fixed, verdictInk, withUnit } from "../../marks/words";

interface Props {
  row: RowShape;
  cell: CellShape;
  reach: number;
  isBaseline: boolean;
}

/** The baseline's figure, or the plain change against it with its interval and verdict. */
export function VersusCell({ row, cell, reach, isBaseline }: Props) {
  if (isBaseline) {
    return (
      <div className="whitespace-nowrap">
        <strong className="text-[15px]">{withUnit(cell.centre, row.unit)}</strong>{" "}
        <span className="text-note text-quiet">
          {cell.half_pct !== null && `± ${fixed(cell.half_pct, 1)} % · `}
          {count(cell.n, "pass")}
        </span>
        <div className="text-small text-quiet">{heldWords(cell)}</div>
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
  return (
    <div className="flex max-w-96 items-center justify-between gap-2">
      <div className="min-w-0">
        <div className="whitespace-nowrap">
          <strong className="text-[15px]">{c.told}</strong>
          <span className="pl-2 text-small text-quiet">{c.speed}</span>
        </div>
        <div className="text-small whitespace-nowrap">
          <span className={verdictInk(c.verdict)}>
            {c.verdict === "no margin" ? "differs by" : c.verdict}
          </span>
          {c.interval && <span className="text-quiet"> {c.interval}</span>}
        </div>
        {c.settling && <div className="text-small text-quiet">{c.settling}</div>}
      </div>
      {row.scale === "ratio" && row.margin !== null && (
        <VersusMark
          effect={c.better}
          low={c.better_low}
          high={c.better_high}
          verdict={c.verdict}
          margin={row.margin}
          reach={reach}
          width={112}
        />
      )}
    </div>
  );
}

/** That a frame cap or the display held the runs. */
export function heldWords(cell: Pick<CellShape, "held_fps">): string {
  return cell.held_fps === null ? "" : `held at ${cell.held_fps}`;
}
