import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { LensObject } from "./lenses/lens";
import { lensOf } from "./lenses/registry";

/** A cell of the grid: a test, one of its metrics, and a column. */
export interface CellPlace {
  test: number;
  metric: string;
  column: number;
}

interface MatrixPlace {
  lens: LensObject;
  baseline: number | null;
  cells: CellPlace[];
  /** Workloads that are folded, by their group's key. */
  folded: ReadonlySet<string>;
  /** Whether figures are shown as they would be without the recorder. */
  corrected: boolean;
  setCorrected: (corrected: boolean) => void;
  /** Whether idle baselines are taken off. */
  idle: boolean;
  setIdle: (idle: boolean) => void;
  setLens: (lens: string) => void;
  setBaseline: (column: number | null) => void;
  setCells: (cells: CellPlace[]) => void;
  setFolded: (folded: ReadonlySet<string>) => void;
}

/** Lens, baseline, folds and chosen cells live in the address, so that a colleague can be sent what one sees. */
export function useMatrixPlace(): MatrixPlace {
  const [search, setSearch] = useSearchParams();
  const set = useCallback(
    (key: string, value: string | null) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          if (value === null) next.delete(key);
          else next.set(key, value);
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const lens = lensOf(search.get("lens"));
  const baseline = search.get("baseline");
  const chosen = search.get("cells") ?? "";
  const cells = useMemo(() => chosen.split(",").flatMap(parse), [chosen]);
  const hidden = search.get("folded") ?? "";
  const folded = useMemo(() => new Set(hidden.split(",").filter(Boolean)), [hidden]);
  return {
    lens,
    baseline: baseline === null ? null : Number(baseline),
    cells,
    folded,
    corrected: search.has("corrected"),
    idle: search.has("idle"),
    setIdle: (next) => set("idle", next ? "1" : null),
    setCorrected: (next) => set("corrected", next ? "1" : null),
    setLens: (next) => set("lens", next),
    setBaseline: (column) => set("baseline", column === null ? null : String(column)),
    setCells: (next) => set("cells", next.length ? next.map(written).join(",") : null),
    setFolded: (next) => set("folded", next.size ? [...next].join(",") : null),
  };
}

function parse(text: string): CellPlace[] {
  const [test, metric, column] = text.split(".");
  return test && metric && column ? [{ test: Number(test), metric, column: Number(column) }] : [];
}

function written(cell: CellPlace): string {
  return `${cell.test}.${cell.metric}.${cell.column}`;
}

export function sameCell(a: CellPlace, b: CellPlace): boolean {
  return a.test === b.test && a.column === b.column && a.metric === b.metric;
}
