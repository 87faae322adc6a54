import type { Shapes } from "../api/client";

type Search = Shapes["SearchShape"];

interface Props {
  search: Search;
  width?: number;
}

const HEIGHT = 190;
const LEFT = 46;
const BOTTOM = 26;
const TOP = 12;
const STEP = 34;

/**
 * Attempts from left to right, load upward. A filled disc held, a cross broke; a ring is a hot attempt; the open one is
 * next. The band lies between the highest load that held and the lowest that broke.
 */
export function Ladder({ search, width = 620 }: Props) {
  const { attempts, next } = search;
  const loads = [...attempts.map((one) => one.load), ...(next ? [next.load] : [])];
  if (!loads.length) return null;
  const top = Math.max(...loads) * 1.08;
  const low = Math.min(...loads) * 0.85;
  const y = (load: number) =>
    HEIGHT - BOTTOM - ((load - low) / Math.max(1e-9, top - low)) * (HEIGHT - BOTTOM - TOP);
  const wide = Math.max(width, LEFT + (loads.length + 1) * STEP);
  const x = (at: number) => LEFT + STEP * (at + 0.7);
  const { held, broken } = search.cold;
  return (
    <svg
      viewBox={`0 0 ${wide} ${HEIGHT}`}
      width={wide}
      height={HEIGHT}
      role="img"
      aria-label={`Attempts of the search: ${search.cold.words}`}
      className="max-w-full"
    >
      {held !== null && broken !== null && (
        <rect
          x={LEFT}
          width={wide - LEFT}
          y={y(broken)}
          height={y(held) - y(broken)}
          fill="var(--color-band)"
        />
      )}
      {search.unstable && (
        <path
          d={`M${LEFT + 3} ${y(search.unstable[1] ?? 0) - 7}V${y(search.unstable[0] ?? 0) + 7}`}
          stroke="var(--color-undecided)"
          strokeWidth="5"
          strokeDasharray="2 2"
        />
      )}
      {marksOf(low, top, search.rungs).map((mark) => (
        <g key={mark.load}>
          <line x1={LEFT - 4} x2={LEFT} y1={y(mark.load)} y2={y(mark.load)} stroke="var(--color-line)" />
          <text x={LEFT - 7} y={y(mark.load) + 4} textAnchor="end" className="fill-quiet text-small">
            {mark.words}
          </text>
        </g>
      ))}
      <line x1={LEFT} x2={LEFT} y1={TOP} y2={HEIGHT - BOTTOM} stroke="var(--color-line)" />
      <polyline
        points={attempts.map((one, at) => `${x(at)},${y(one.load)}`).join(" ")}
        fill="none"
        stroke="var(--color-line)"
      />
      {attempts.map((one, at) => (
        <g key={one.position}>
          <title>{`${one.words}${one.hot ? ", hot" : ""}: ${one.holds ? "holds" : "breaks"}`}</title>
          {one.hot && <circle cx={x(at)} cy={y(one.load)} r="10" fill="none" stroke="var(--color-worse)" />}
          {one.holds ? (
            <circle cx={x(at)} cy={y(one.load)} r="6" fill="var(--color-ink)" />
          ) : (
            <path
              d={`M${x(at) - 5} ${y(one.load) - 5}l10 10m0 -10l-10 10`}
              stroke="var(--color-ink)"
              strokeWidth="2.2"
            />
          )}
          <text x={x(at)} y={HEIGHT - 8} textAnchor="middle" className="fill-quiet text-small">
            {one.load}
          </text>
        </g>
      ))}
      {next && (
        <g>
          <circle
            cx={x(attempts.length)}
            cy={y(next.load)}
            r="6"
            fill="var(--color-sheet)"
            stroke="var(--color-ink)"
            strokeDasharray="2.4 2"
          />
          <text x={x(attempts.length)} y={HEIGHT - 8} textAnchor="middle" className="fill-quiet text-small">
            {next.load}?
          </text>
        </g>
      )}
    </svg>
  );
}

/** A few round loads for the axis, or the names of the rungs. */
function marksOf(low: number, top: number, rungs: string[]): { load: number; words: string }[] {
  if (rungs.length) return rungs.map((words, load) => ({ load, words }));
  const size = 10 ** Math.floor(Math.log10(Math.max(1, (top - low) / 3)));
  const step = [1, 2, 5, 10].map((one) => one * size).find((one) => (top - low) / one <= 5) ?? size * 10;
  const first = Math.ceil(low / step) * step;
  return Array.from({ length: Math.max(0, Math.floor((top - first) / step) + 1) }, (_, at) => {
    const load = first + at * step;
    return { load, words: String(load) };
  });
}
