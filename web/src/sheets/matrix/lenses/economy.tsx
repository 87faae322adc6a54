import { EconomyCellView } from "../EconomyCellView";
import { Missing } from "../Missing";
import type { LensObject } from "./lens";
import { useMatrix } from "../../../api/review";
import { AgainstBaseline } from "./AgainstBaseline";
import { priceWords } from "../../../marks/words";

export const economy: LensObject = {
  key: "economy",
  name: "Economy",
  perMetric: false,
  tailsTellLows: false,
  takesTyping: false,
  columnPx: 250,
  baselinePx: 200,
  rowPx: 62,
  headline: () => "power, energy, and work per watt",
  Head: ({ column }) => {
    const matrix = useMatrix();
    const price = matrix.prices[String(column.id)];
    if (!price) return null;
    if (price.total === null) {
      return (
        <div className="truncate text-small font-normal text-quiet" title={price.words}>
          {price.words}
        </div>
      );
    }
    const parts = price.parts.map((one) => `${one.part} ${priceWords(one.euro)}, ${one.on}`).join("; ");
    return (
      <div className="truncate text-small font-normal" title={parts}>
        {priceWords(price.total)}{" "}
        <span className="text-quiet">
          {price.basis}, since {price.on}
        </span>
      </div>
    );
  },
  Cell: ({ line, column, measure }) => {
    const matrix = useMatrix();
    const row = matrix.economy.find((one) => one.test === line.test);
    const cell = row?.cells[String(column.id)];
    if (!row || !cell) return <Missing line={line} column={column.id} kept={row?.why_not || "not told"} />;
    return <EconomyCellView row={row} cell={cell} margin={matrix.margin_pct} reach={measure.economyReach} />;
  },
  Legend: () => <AgainstBaseline what="work per watt" />,
  Foot: () => (
    <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">
      Power is the mean over what counts of a pass, energy that power over its length, and work per watt the
      rate of a pass over its power; of a timed job it is its share done per kJ. Each test is told by one
      source, which its name says; another is chosen where the test is edited. Sources are never mixed. Prices
      are the latest of one basis, in euro at the rate kept with each.
    </p>
  ),
};
