import { useState, type KeyboardEvent, type ReactNode } from "react";
import { TableHead } from "../../design/TableHead";
import { Legend, type LegendEntry } from "./Legend";

/** Something in a chart that can be pointed at: where it is, and what it says. */
export interface ChartPoint {
  key: string;
  x: number;
  y: number;
  words: string;
}

interface Props {
  /** What it shows, for those who do not see it. */
  label: string;
  width: number;
  height: number;
  /** What is drawn, in the chart's own coordinates. */
  children: ReactNode;
  /** Said under it. */
  caption?: ReactNode;
  legend?: LegendEntry[];
  points?: ChartPoint[];
  /** The same as a table, opened on request. */
  table?: { columns: string[]; rows: (string | number)[][] };
  className?: string;
}

const NEAR = 14;
// A chart grows with its place, but its words not far beyond those around it.
const LARGEST = 1.13;

/**
 * The frame of a drawn chart: its name, its points by pointer and by arrow keys, legend, caption, and the table that says
 * the same. What is pointed at is said under the chart, so that it is read aloud too.
 */
export function Chart(props: Props) {
  const { label, width, height, points = [], legend, caption, table, className } = props;
  const [at, setAt] = useState<number | null>(null);
  const pointed = at === null ? undefined : points[at];
  const onKey = (event: KeyboardEvent) => {
    const next = nextPoint(event.key, at, points.length);
    if (next === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    setAt(next);
  };
  return (
    <figure className={className}>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        className="w-full"
        style={{ maxWidth: LARGEST * width }}
        role="img"
        aria-label={label}
        fontSize="11.5"
        tabIndex={points.length ? 0 : undefined}
        onKeyDown={points.length ? onKey : undefined}
        onBlur={() => setAt(null)}
        onPointerMove={
          points.length
            ? (event) => {
                const box = event.currentTarget.getBoundingClientRect();
                const scale = width / box.width;
                const x = (event.clientX - box.left) * scale;
                const y = (event.clientY - box.top) * scale;
                setAt(nearest(points, x, y, NEAR * scale));
              }
            : undefined
        }
        onPointerLeave={() => setAt(null)}
      >
        {props.children}
        {pointed && (
          <circle
            cx={pointed.x}
            cy={pointed.y}
            r="9"
            fill="none"
            stroke="var(--color-mark)"
            strokeWidth="2"
          />
        )}
      </svg>
      {legend && legend.length > 1 && <Legend entries={legend} />}
      {points.length > 0 && (
        <p role="status" className="min-h-[1.4em] text-note">
          {pointed?.words ?? ""}
        </p>
      )}
      {caption && <figcaption className="text-note text-quiet">{caption}</figcaption>}
      {table && (
        <details className="text-note">
          <summary className="cursor-pointer text-quiet">as a table</summary>
          <table className="mt-1">
            <TableHead columns={table.columns} />
            <tbody>
              {table.rows.map((row, line) => (
                <tr key={line} className="border-t border-line">
                  {row.map((value, column) => (
                    <td
                      key={column}
                      className={`py-0.5 pr-4 ${typeof value === "number" ? "text-right" : ""}`}
                    >
                      {value}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </figure>
  );
}

/** Where a key leads among so many points; undefined for keys that lead nowhere, null for none. */
export function nextPoint(key: string, at: number | null, count: number): number | null | undefined {
  if (!count) return undefined;
  switch (key) {
    case "ArrowRight":
    case "ArrowDown":
      return at === null ? 0 : Math.min(count - 1, at + 1);
    case "ArrowLeft":
    case "ArrowUp":
      return at === null ? count - 1 : Math.max(0, at - 1);
    case "Home":
      return 0;
    case "End":
      return count - 1;
    case "Escape":
      return at === null ? undefined : null;
    default:
      return undefined;
  }
}

/** The point that lies nearest to a place, if any is so near. */
export function nearest(points: readonly ChartPoint[], x: number, y: number, within: number): number | null {
  let found: number | null = null;
  let least = within;
  points.forEach((point, at) => {
    const away = Math.hypot(point.x - x, point.y - y);
    if (away <= least) {
      least = away;
      found = at;
    }
  });
  return found;
}
