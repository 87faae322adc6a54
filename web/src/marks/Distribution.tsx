import type { Shapes } from "../api/client";
import { XAxis, YAxis } from "./chart/Axis";
import { Chart, type ChartPoint } from "./chart/Chart";
import { linear, logarithmic, type Scale } from "./chart/scales";
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

/** Frame-time percentiles on a scale that opens the tail, and the histogram under them on its own axis. */
export function Distribution({ passes, lowWords }: Props) {
  const deepest = Math.min(...passes.flatMap(({ shape }) => shape.share_slower.slice(-1)), 0.01);
  const slowest = Math.max(...passes.flatMap(({ shape }) => shape.curve_ms));
  const right = WIDTH - RIGHT;
  const x = logarithmic([deepest, 1], [right, LEFT]);
  const y = linear([0, slowest * 1.05], [CURVE, 12], 4);
  const shares = [0.5, 0.1, 0.01, 0.001, 0.0001]
    .filter((share) => share >= deepest * 0.99)
    .map((value) => ({
      value,
      words: `${100 * value} % slower`,
      strong: value === 0.01 || value === 0.001,
    }));
  const edges = passes[0]?.shape.edges_ms ?? [0, 1];
  const top = edges[edges.length - 1] ?? 1;
  const most = Math.max(...passes.map(({ shape }) => Math.max(...shape.counts) / shape.frames), 1e-9);
  const bottom = CURVE + GAP + BARS;
  const bx = linear([0, top], [LEFT, right], 4);
  const by = linear([0, most], [bottom, bottom - BARS + 14]);
  const words = passes
    .map(
      ({ label, number, shape }) =>
        `${label}, pass ${number}: half of ${shape.frames} frames under ${figure(shape.median_ms)} ms`,
    )
    .join("; ");
  return (
    <Chart
      label={`Distribution of frame times. ${words}.`}
      width={WIDTH}
      height={bottom + 20}
      legend={passes.map(({ key, position, label, number, layer }) => ({
        key,
        position,
        layer,
        label: `${label}, pass ${number}`,
      }))}
      points={passes.flatMap((pass) => lowsOf(pass, x, y, deepest))}
      caption={
        <>
          above: frame time by the share of frames that are slower; bars: the lows, {lowWords}, hollow where
          the tail is thin · below: how many of the frames last how long
        </>
      }
      table={{
        columns: ["configuration", "pass", "frames", "median in ms", "1 % low in ms", "0.1 % low in ms"],
        rows: passes.map(({ label, number, shape }) => [
          label,
          number,
          shape.frames,
          Number(shape.median_ms.toPrecision(4)),
          told(shape.low_1pct_ms, shape.low_1pct_thin),
          told(shape.low_01pct_ms, shape.low_01pct_thin),
        ]),
      }}
    >
      <YAxis scale={y} unit="ms" at={LEFT} across={[LEFT, right]} />
      <XAxis scale={x} ticks={shares} at={CURVE} across={[10, CURVE]} />
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
      <XAxis scale={bx} unit="ms" at={bottom} across={[bottom, bottom]} lines="none" />
    </Chart>
  );
}

function told(ms: number, thin: boolean): string {
  return `${figure(ms)}${thin ? ", thin" : ""}`;
}

/** The lows of a pass as what can be pointed at. */
function lowsOf(
  { key, label, number, shape }: Distributed,
  x: Scale,
  y: Scale,
  deepest: number,
): ChartPoint[] {
  const named = `${label}, pass ${number}`;
  const point = (share: number, ms: number, thin: boolean): ChartPoint => ({
    key: `${key} ${share}`,
    x: x(share),
    y: y(ms),
    words: `${named}: ${100 * share} % low at ${figure(ms)} ms, ${figure(1000 / ms)} fps${thin ? ", thin tail" : ""}`,
  });
  return [
    point(0.01, shape.low_1pct_ms, shape.low_1pct_thin),
    ...(deepest <= 0.001 ? [point(0.001, shape.low_01pct_ms, shape.low_01pct_thin)] : []),
  ];
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
