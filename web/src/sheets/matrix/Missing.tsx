import type { RowShape } from "../../api/client";
import { withUnit } from "../../marks/words";
import { columnOf } from "../../api/lookup";
import { useMatrix, useReview } from "../../api/review";

interface MissingProps {
  row?: RowShape;
  line: { test: number };
  column: number;
  /** What is said of a cell whose passes are kept. */
  kept?: string;
}

/** Why a cell has no figure: what failed, what is owed, cannot be built, never asked for. Never zero. */
export function Missing({ row, line, column, kept }: MissingProps) {
  const matrix = useMatrix();
  const review = useReview();
  if (row?.apart[String(column)]?.length) return <Apart row={row} column={column} />;
  const gap = row?.gaps[String(column)];
  if (gap) return <span className="text-note text-quiet">{gap}</span>;
  const cell = matrix.progress.find((one) => one.test === line.test)?.cells[String(column)];
  const has = cell?.pips.some((pip) => pip.state === "kept" || pip.state === "flagged");
  const blocked = cell ? "" : columnOf(review, column)?.blocked;
  if (blocked) {
    return (
      <span className="line-clamp-2 text-note text-quiet print:line-clamp-none" title={blocked}>
        cannot be built: {blocked}
      </span>
    );
  }
  return <span className="text-note text-quiet">{(has && kept) || (cell?.said ?? "not run")}</span>;
}

/** Readings that are shown and take part in nothing: about, over, under, remembered. */
export function Apart({ row, column }: { row: RowShape; column: number }) {
  const readings = row.apart[String(column)] ?? [];
  if (!readings.length) return null;
  const words = readings.map((one) => {
    const exact = one.method === "remembered" || one.method === "as its tool says";
    return `${one.bound || (exact ? "" : "about")} ${withUnit(one.value, row.unit)}`.trim();
  });
  const how = [...new Set(readings.map((one) => one.method))].filter((method) =>
    ["remembered", "as its tool says"].includes(method),
  );
  return <div className="text-small text-quiet">{["apart: " + words.join(", "), ...how].join(", ")}</div>;
}
