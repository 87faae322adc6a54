import { FiguresCell } from "../FiguresCell";
import { Apart, Missing } from "../Missing";
import { TargetLine } from "../TargetLine";
import { FootNotes } from "./FootNotes";
import type { LensObject } from "./lens";
import { useMatrix } from "../../../api/review";

export const figures: LensObject = {
  key: "figures",
  name: "Figures",
  perMetric: true,
  tailsTellLows: true,
  takesTyping: true,
  columnPx: 250,
  baselinePx: 250,
  rowPx: 58,
  headline: () => "centre of the kept passes",
  Cell: ({ line, column, measure }) => {
    const matrix = useMatrix();
    const row = matrix.rows.find((one) => one.key === line.key);
    const cell = row?.cells[String(column.id)];
    if (!row || !cell) {
      return (
        <>
          <Missing row={row} line={line} column={column.id} />
          <TargetLine row={row} column={column.id} />
        </>
      );
    }
    return (
      <>
        <FiguresCell row={row} cell={cell} position={column.position} top={measure.top[row.key] ?? 1} />
        <TargetLine row={row} column={column.id} />
        <Apart row={row} column={column.id} />
      </>
    );
  },
  Legend: () => (
    <span className="text-note text-quiet">
      wide end: average · bar: 1 % low · point: 0.1 % low · end: 95 % interval
    </span>
  ),
  Foot: () => {
    return (
      <FootNotes>
        Intervals are 95 %, from the passes of the cell alone, with the step of readings that were read
        off.{" "}
      </FootNotes>
    );
  },
};
