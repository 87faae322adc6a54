import type { ColumnShape, ReviewShape } from "../api/client";

type Shown = Pick<ReviewShape, "differences">;

interface Told {
  key: string;
  words: string;
  flagged: boolean;
}

/** What differs between a configuration and the baseline beyond the question: undeclared, not taken, or accepted. */
export function beyond(review: Shown, column: ColumnShape, baseline: number | null): Told[] {
  const { rows } = review.differences;
  const keys = new Set(rows.map((row) => row.key));
  // Older records have no caveats and name no parents.
  const caveats = review.differences.caveats ?? [];
  const value = (values: Record<string, string | null>) => values[String(column.id)];
  const flagged = rows
    .filter(
      (row) =>
        row.flagged.includes(column.id) &&
        !(row.parents ?? []).some((key) => keys.has(key) && row.kind !== "observed"),
    )
    .map((row) => ({ key: row.key, words: `${row.label} ${value(row.values) ?? "not set"}`, flagged: true }));
  const accepted = caveats
    .filter((one) => value(one.values) !== one.values[String(baseline)])
    .map((one) => ({ key: one.aspect, words: `${one.label} differs: ${one.words}`, flagged: false }));
  return [...flagged, ...accepted];
}

interface Props {
  review: Shown;
  column: ColumnShape;
  baseline: number | null;
  most?: number;
}

/** The same, as short lines under a configuration's name. */
export function Beyond({ review, column, baseline, most = 3 }: Props) {
  const told = beyond(review, column, baseline);
  return (
    <>
      {told.slice(0, most).map((one) => (
        <div
          key={one.key}
          className={`text-small font-normal whitespace-normal ${one.flagged ? "text-mark" : "text-quiet"}`}
        >
          {one.flagged && <span aria-hidden="true">⚑ </span>}
          {one.words}
        </div>
      ))}
      {told.length > most && (
        <div
          className="text-small font-normal text-mark"
          title={told
            .slice(most)
            .map((one) => one.words)
            .join("; ")}
        >
          and {told.length - most} more
        </div>
      )}
    </>
  );
}
