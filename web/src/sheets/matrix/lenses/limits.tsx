import { LimitsCellView } from "../LimitsCellView";
import { Missing } from "../Missing";
import type { LensObject } from "./lens";
import { useMatrix } from "../../../api/review";

export const limits: LensObject = {
  key: "limits",
  name: "Limits",
  perMetric: false,
  tailsTellLows: false,
  takesTyping: false,
  columnPx: 236,
  baselinePx: 236,
  rowPx: 56,
  headline: () => "mean over the kept passes",
  Cell: ({ line, column }) => {
    const matrix = useMatrix();
    const row = matrix.limits.find((one) => one.test === line.test);
    const cell = row?.cells[String(column.id)];
    if (!row || !cell) {
      return <Missing line={line} column={column.id} kept="no sensor was recorded" />;
    }
    return <LimitsCellView cell={cell} masked={row.masked[String(column.id)]?.words} />;
  },
  Legend: () => (
    <span className="text-note text-quiet">what limited each cell, by the share of its seconds</span>
  ),
  Foot: () => (
    <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">
      Each second of a run is named by the first evidence that holds, in this order: graphics memory full,
      main memory full, clock held down by heat or power, a frame cap, graphics, one thread, all threads,
      storage. A cell is called by what limits half of its seconds or more.
    </p>
  ),
};
