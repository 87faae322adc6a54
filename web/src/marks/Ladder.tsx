import type { Shapes } from "../api/client";
import { YAxis } from "./chart/Axis";
import { Chart } from "./chart/Chart";
import { linear } from "./chart/scales";

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
  const y = linear([Math.min(...loads) * 0.85, Math.max(...loads) * 1.08], [HEIGHT - BOTTOM, TOP], 4);
  const rungs = search.rungs.map((words, value) => ({ value, words }));
  const wide = Math.max(width, LEFT + (loads.length + 1) * STEP);
  const x = (at: number) => LEFT + STEP * (at + 0.7);
  const { held, broken } = search.cold;
  return (
    <Chart
      label={`Attempts of the search: ${search.cold.words}`}
      width={wide}
      height={HEIGHT}
      className="min-w-[420px]"
      points={attempts.map((one, at) => ({
        key: String(one.position),
        x: x(at),
        y: y(one.load),
        words: attemptWords(one),
      }))}
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
      <YAxis
        scale={y}
        ticks={rungs.length ? rungs : undefined}
        at={LEFT}
        across={[LEFT, wide]}
        lines="strokes"
      />
      <line x1={LEFT} x2={LEFT} y1={TOP} y2={HEIGHT - BOTTOM} stroke="var(--color-line)" />
      <polyline
        points={attempts.map((one, at) => `${x(at)},${y(one.load)}`).join(" ")}
        fill="none"
        stroke="var(--color-line)"
      />
      {attempts.map((one, at) => (
        <g key={one.position}>
          <title>{attemptWords(one)}</title>
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
    </Chart>
  );
}

function attemptWords(one: Search["attempts"][number]): string {
  return `${one.words}${one.hot ? ", hot" : ""}: ${one.holds ? "holds" : "breaks"}`;
}
