import type { Shapes } from "../../api/client";
import { VersusMark } from "../../marks/VersusMark";
import { energyWords, figure, verdictInk } from "../../marks/words";

interface Props {
  row: Shapes["EconomyRow"];
  cell: Shapes["EconomyCell"];
  /** In %. */
  margin: number;
  reach: number;
}

/** Power, energy and work per watt of a cell, with its ratio to the baseline. */
export function EconomyCellView({ row, cell, margin, reach }: Props) {
  return (
    <div className="flex max-w-96 items-center justify-between gap-2">
      <div className="min-w-0">
        <div className="whitespace-nowrap">
          <strong className="text-[15px]">
            {cell.mean_w === null ? "no power" : `${figure(cell.mean_w)} W`}
          </strong>{" "}
          <span className="text-small text-quiet">
            {[row.source_words, cell.energy_j !== null && energyWords(cell.energy_j)]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </div>
        {cell.per_watt === null ? (
          <div className="text-small text-quiet">{cell.why_not || row.why_not}</div>
        ) : (
          <div className="text-small">
            {figure(cell.per_watt)} {row.per_unit}
          </div>
        )}
        {cell.verdict && (
          <div className="text-small whitespace-nowrap">
            {cell.told} <span className={verdictInk(cell.verdict)}>{cell.verdict}</span>
            {cell.interval && <span className="text-quiet"> {cell.interval}</span>}
          </div>
        )}
        {cell.over_idle_w !== null && (
          <div className="text-small text-quiet">{figure(cell.over_idle_w)} W over idle</div>
        )}
      </div>
      {cell.better !== null && (
        <VersusMark
          effect={cell.better}
          low={cell.better_low}
          high={cell.better_high}
          verdict={cell.verdict}
          margin={margin}
          reach={reach}
          width={84}
        />
      )}
    </div>
  );
}
