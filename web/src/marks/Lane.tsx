import { bare } from "./words";

interface Point {
  at: number;
  value: number;
}

interface Props {
  name: string;
  unit: string;
  points: Point[];
  /** Seconds shown, up to the last report. */
  from: number;
  to: number;
  /** A level that the value should stay under. */
  limit?: number | null;
  words: string;
  width?: number;
}

const HEIGHT = 46;

/** One quantity over the last minutes, with its last value in words. */
export function Lane({ name, unit, points, from, to, limit, words, width = 560 }: Props) {
  const shown = points.filter((point) => point.at >= from);
  const values = shown.map((point) => point.value);
  const top = unit === "%" ? 100 : Math.max(...values, limit ?? 0, 1e-9) * 1.06;
  const low = unit === "%" ? 0 : Math.min(...values, limit ?? Number.POSITIVE_INFINITY) * 0.94;
  const x = (at: number) => ((at - from) / Math.max(1e-9, to - from)) * width;
  const y = (value: number) => HEIGHT - 3 - ((value - low) / Math.max(1e-9, top - low)) * (HEIGHT - 6);
  return (
    <div className="flex items-stretch gap-3 border-b border-line">
      <div className="w-52 shrink-0 py-1">
        <div className="text-note text-quiet">{name}</div>
        <div className="whitespace-nowrap">
          <span className="text-lead font-semibold">{words}</span>
          {values.length > 1 && (
            <span className="ml-2 text-small text-quiet">
              {bare(Math.min(...values), unit)} to {bare(Math.max(...values), unit)}
            </span>
          )}
        </div>
      </div>
      <svg
        viewBox={`0 0 ${width} ${HEIGHT}`}
        preserveAspectRatio="none"
        aria-hidden="true"
        className="h-[46px] min-w-0 flex-1 bg-sheet"
      >
        {limit !== null && limit !== undefined && (
          <line
            x1="0"
            x2={width}
            y1={y(limit)}
            y2={y(limit)}
            stroke="var(--color-mark)"
            strokeDasharray="5 4"
            vectorEffect="non-scaling-stroke"
          />
        )}
        <polyline
          points={shown.map((point) => `${x(point.at).toFixed(1)},${y(point.value).toFixed(1)}`).join(" ")}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1.4"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </div>
  );
}
