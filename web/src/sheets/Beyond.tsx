import type { ColumnShape, ReviewShape } from "../api/client";
import { Popover } from "../design/Popover";
import { useReview } from "../api/review";

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
  column: ColumnShape;
  baseline: number | null;
  /** Whether all of it is written out, as on paper. */
  all?: boolean;
}

/** The same under a configuration's name: one line, and the rest behind it. */
export function Beyond({ column, baseline, all = false }: Props) {
  const review = useReview();
  const told = beyond(review, column, baseline);
  const [first, ...rest] = told;
  if (!first) return null;
  const line = (one: Told) => (
    <div
      key={one.key}
      className={`text-small font-normal ${all ? "whitespace-normal" : "truncate"} ${one.flagged ? "text-mark" : "text-quiet"}`}
    >
      {one.flagged && <span aria-hidden="true">⚑ </span>}
      {one.words}
    </div>
  );
  if (all) return <>{told.map(line)}</>;
  return (
    <div className="flex items-baseline gap-1.5">
      <div className="min-w-0 flex-1">{line(first)}</div>
      {rest.length > 0 && (
        <Popover
          label={`${column.label}: all that differs beyond the question`}
          trigger={
            <button
              type="button"
              className="shrink-0 text-small font-normal text-mark underline decoration-line"
            >
              +{rest.length}
            </button>
          }
        >
          {told.map((one) => (
            <p key={one.key} className={one.flagged ? "text-mark" : ""}>
              {one.flagged && "⚑ "}
              {one.words}
            </p>
          ))}
        </Popover>
      )}
    </div>
  );
}
