import type { CellDetail, ColumnShape, PassShape, ReviewShape } from "../../../api/client";
import { columnOf } from "../../../api/lookup";
import type { CellPlace } from "../place";

/** A pass that is looked at: the shown one of a chosen cell, or one laid over it. */
export interface ChosenPass {
  cell: CellPlace;
  column: ColumnShape;
  pass: PassShape;
  layer: number;
}

export function cellKey(cell: CellPlace): string {
  return `${cell.test}.${cell.column}`;
}

export function hasTrace(pass: PassShape | undefined): boolean {
  return Boolean(pass?.captures.some((capture) => capture.kind !== "file"));
}

export function hasFrames(pass: PassShape): boolean {
  return pass.captures.some((capture) => capture.kind === "frames");
}

/** The pass that is shown of a cell: the one asked for, else the last that counts, else the last. */
export function shownPass(detail: CellDetail | undefined, asked: string | undefined): PassShape | undefined {
  if (!detail) return undefined;
  const kept = detail.passes.filter((pass) => pass.kept);
  return (
    detail.passes.find((pass) => pass.id === asked) ??
    kept[kept.length - 1] ??
    detail.passes[detail.passes.length - 1]
  );
}

/** All passes that are looked at, cell by cell; passes of one cell lie over one another in layers. */
export function chosenPasses(
  review: ReviewShape,
  cells: CellPlace[],
  details: (CellDetail | undefined)[],
  shown: Record<string, string>,
  over: string[],
): ChosenPass[] {
  return cells.flatMap((cell, at) => {
    const column = columnOf(review, cell.column);
    const first = shownPass(details[at], shown[cellKey(cell)]);
    if (!column || !first) return [];
    const more = (details[at]?.passes ?? []).filter((pass) => over.includes(pass.id) && pass.id !== first.id);
    return [first, ...more].map((pass, layer) => ({ cell, column, pass, layer }));
  });
}
