import type { Shapes } from "../api/client";
import { dashOf } from "./overlay";
import { sealInk, sealLetter } from "./Seal";
import { figure } from "./words";

export interface Distributed {
  key: string;
  position: number;
  label: string;
  number: number;
  layer: number;
  shape: Shapes["DistributionShape"];
}

interface Props {
  passes: Distributed[];
  lowWords: string;
}

const WIDTH = 760;
const LEFT = 52;
const CURVE = 210;
const BARS = 130;
const GAP = 44;
const RIGHT = 60;
const FOOT = 46;

/** Frame-time percentiles on a scale that opens the tail, and the histogram under them on its own axis. */
export function Distribution({ passes, lowWords }: Props) {
  const deepest = Math.min(...passes.flatMap(({ shape }) => shape.share_slower.slice(-1)), 0.01);
  const slowest = Math.max(...passes.flatMap(({ shape }) => shape.curve_ms));
  const right = WIDTH - RIGHT;
  const x = (share: number) => LEFT + (Math.log10(share) / Math.log10(deepest)) * (right - LEFT);
  const y = (ms: number) => CURVE - (ms / (slowest * 1.05)) * (CURVE - 12);
  const ticks = [0.5, 0.1, 0.01, 0.001, 0.0001].filter((share) => share >= deepest * 0.99);
  const edges = passes[0]?.shape.edges_ms ?? [0, 1];
  const top = edges[edges.length - 1] ?? 1;
  const most = Math.max(...passes.map(({ shape }) => Math.max(...shape.counts) / shape.frames), 1e-9);
  const bottom = CURVE + GAP + BARS;
  const bx = (ms: number) => LEFT + (ms / top) * (right - LEFT);
  const by = (share: number) => bottom - (share / most) * (BARS - 14);
  const words = passes
    .map(
      ({ label, number, shape }) =>
        `${label}, pass ${number}: half of ${shape.frames} frames under ${figure(shape.median_ms)} ms`,
    )
    .join("; ");
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + FOOT}`}
      className="w-full max-w-[860px]"
      role="img"
      aria-label={`Distribution of frame times. ${words}.`}
      fontSize="11.5"
    >
      {yTicks(slowest).map((ms) => (
        <g key={ms}>
          <line x1={LEFT} x2={right} y1={y(ms)} y2={y(ms)} stroke="var(--color-line)" />
          <text x={LEFT - 6} y={y(ms) + 4} textAnchor="end" fill="var(--color-quiet)">
            {ms} ms
          </text>
        </g>
      ))}
      {ticks.map((share) => (
        <g key={share}>
          <line
            x1={x(share)}
            x2={x(share)}
            y1={10}
            y2={CURVE}
            stroke={share === 0.01 || share === 0.001 ? "var(--color-level)" : "var(--color-line)"}
            strokeDasharray={share === 0.01 || share === 0.001 ? "4 3" : undefined}
          />
          <text x={x(share)} y={CURVE + 14} textAnchor="middle" fill="var(--color-quiet)">
            {100 * share} % slower
          </text>
        </g>
      ))}
      {passes.map(({ key, position, layer, number, shape }) => {
        const last = shape.curve_ms[shape.curve_ms.length - 1] ?? 0;
        const end = shape.share_slower[shape.share_slower.length - 1] ?? deepest;
        return (
          <g key={key}>
            <polyline
              fill="none"
              stroke={sealInk(position)}
              strokeWidth="1.6"
              strokeDasharray={dashOf(layer).join(" ")}
              points={shape.share_slower
                .map((share, at) => `${x(share).toFixed(1)},${y(shape.curve_ms[at] ?? 0).toFixed(1)}`)
                .join(" ")}
            />
            <text x={x(end) + 4} y={y(last) + 4} fill={sealInk(position)} fontWeight="600">
              {sealLetter(position)} {number}
            </text>
            {low(x(0.01), y(shape.low_1pct_ms), sealInk(position), shape.low_1pct_thin)}
            {deepest <= 0.001 &&
              low(x(0.001), y(shape.low_01pct_ms), sealInk(position), shape.low_01pct_thin)}
          </g>
        );
      })}
      {passes.map(({ key, position, layer, shape }) => (
        <polyline
          key={key}
          fill={passes.length === 1 ? sealInk(position) : "none"}
          fillOpacity="0.18"
          stroke={sealInk(position)}
          strokeWidth="1.2"
          strokeDasharray={dashOf(layer).join(" ")}
          points={steps(shape, bx, by, bottom)}
        />
      ))}
      <line x1={LEFT} x2={right} y1={bottom} y2={bottom} stroke="var(--color-line)" />
      {yTicks(top).map((ms) => (
        <text key={ms} x={bx(ms)} y={bottom + 14} textAnchor="middle" fill="var(--color-quiet)">
          {ms} ms
        </text>
      ))}
      <text x={LEFT} y={bottom + 28} fill="var(--color-quiet)">
        {`above: frame time by the share of frames that are slower; bars: the lows, ${lowWords}, hollow where the tail is thin`}
      </text>
      <text x={LEFT} y={bottom + 42} fill="var(--color-quiet)">
        below: how many of the frames last how long
      </text>
    </svg>
  );
}

function low(x: number, y: number, ink: string, thin: boolean) {
  return (
    <rect x={x - 5} y={y - 2} width="10" height="4" fill={thin ? "var(--color-sheet)" : ink} stroke={ink} />
  );
}

function steps(
  shape: Distributed["shape"],
  x: (ms: number) => number,
  y: (share: number) => number,
  bottom: number,
): string {
  const points = shape.counts.flatMap((count, at) => {
    const height = y(count / shape.frames).toFixed(1);
    return [
      `${x(shape.edges_ms[at] ?? 0).toFixed(1)},${height}`,
      `${x(shape.edges_ms[at + 1] ?? 0).toFixed(1)},${height}`,
    ];
  });
  return [
    `${x(0)},${bottom}`,
    ...points,
    `${x(shape.edges_ms[shape.edges_ms.length - 1] ?? 0)},${bottom}`,
  ].join(" ");
}

function yTicks(top: number): number[] {
  const raw = top / 4;
  const size = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((one) => one * size).find((one) => one >= raw) ?? raw;
  return Array.from({ length: Math.floor(top / step) + 1 }, (_, at) => Number((at * step).toPrecision(6)));
}
