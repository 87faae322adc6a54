import type { CellShape, RowShape } from "../../api/client";
import { sealInk } from "../../marks/Seal";
import { Tail } from "../../marks/Tail";
import { count, figure, fixed, withUnit } from "../../marks/words";

interface Props {
  row: RowShape;
  cell: CellShape;
  position: number;
  top: number;
}

/** The centre with its interval and count; for frame rates also the lows, as a tail. */
export function FiguresCell({ row, cell, position, top }: Props) {
  const spread =
    cell.n < 2
      ? "spread unknown"
      : row.scale === "ratio"
        ? `± ${fixed(cell.half_pct ?? 0, 1)} %`
        : `${figure(cell.low ?? 0)} to ${figure(cell.high ?? 0)}`;
  const tail = cell.tail;
  return (
    <div className="flex items-center justify-between gap-2">
      <div className="min-w-0">
        <div className="whitespace-nowrap">
          <strong className="text-[15px]">{withUnit(cell.centre, row.unit)}</strong>
        </div>
        <div className="text-small whitespace-nowrap text-quiet">
          {spread} · {count(cell.n, row.kind === "toggle" ? "pair" : "pass")}
          {cell.thin && " · thin tail"}
          {cell.methods.length > 0 && ` · ${cell.methods.join(", ")}`}
          {cell.half_width !== null && ` ± ${figure(cell.half_width, 2)}`}
        </div>
        {cell.idle !== null && (
          <div className="text-small whitespace-nowrap text-quiet">
            idle {withUnit(cell.idle, row.unit)}
            {row.idle_off && " taken off"}
          </div>
        )}
        {tail && (
          <div className="text-small whitespace-nowrap text-quiet">
            {low("1 %", tail.low_1pct, tail.low_1pct_thin)} ·{" "}
            {low("0.1 %", tail.low_01pct, tail.low_01pct_thin)}
          </div>
        )}
      </div>
      {tail && (
        <Tail
          average={cell.centre}
          low={cell.low}
          high={cell.high}
          onePercent={tail.low_1pct}
          tenthPercent={tail.low_01pct}
          top={top}
          ink={sealInk(position)}
        />
      )}
    </div>
  );
}

function low(name: string, value: number | null, thin: boolean): string {
  if (value === null) return `${name} none`;
  return `${name} ${figure(value)}${thin ? " thin" : ""}`;
}
