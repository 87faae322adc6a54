import { useState } from "react";
import type { Shapes } from "../api/client";
import { Button } from "../design/Button";
import { XAxis, type Tick } from "./chart/Axis";
import { Chart, type ChartPoint } from "./chart/Chart";
import { useNarrow } from "./chart/narrow";
import { GOES_ON, goesOn, Interval } from "./chart/Interval";
import { logarithmic, spanOf } from "./chart/scales";
import { SealMark } from "./Seal";
import { verdictInk, verdictPoint } from "./VersusMark";

type Band = Shapes["FindingBand"];

interface Props {
  bands: Band[];
  /** In %; what lies within it is called level. */
  margin: number;
  label: string;
  caption: string;
  table?: { columns: string[]; rows: string[][] };
  /** The configuration that is spoken of. */
  chosen?: number;
  /** Where a configuration's seal stands among the letters. */
  positionOf?: (column: number) => number | undefined;
  width?: number;
}

const LEFT = { wide: 214, narrow: 132 };
const RIGHT = 18;
const TOP = 8;
const BOTTOM = 24;
const ROW = 46;
const WIDTH = { wide: 680, narrow: 400 };
const MOST_LABEL = { wide: 30, narrow: 15 };
// More are opened on request, those first that come first.
const MOST_BANDS = 14;

/** Changes as marks on one axis of equal ratios, better to the right, with single tests as small rings under each. */
export function BandsChart({ bands, margin, label, caption, table, chosen, positionOf, width }: Props) {
  const room = useNarrow() ? "narrow" : "wide";
  const whole = width ?? WIDTH[room];
  const left = LEFT[room];
  const mostLabel = MOST_LABEL[room];
  const [all, setAll] = useState(false);
  const shown = all ? bands : firstOf(bands, chosen);
  const ratio = (better: number) => Math.max(0.001, 1 + better / 100);
  const values = shown.flatMap((band) => [band.better, ...band.dots.map((dot) => dot.better)]);
  const ends = shown.flatMap((band) => [band.low ?? band.better, band.high ?? band.better]);
  const [low, high] = spanOf([...values, margin, -margin].map(ratio), ends.map(ratio), true);
  const x = logarithmic([low * 0.985, high * 1.015], [left, whole - RIGHT]);
  const cut = ends.some((end) => goesOn(x, ratio(end), ratio(end)));
  const height = TOP + ROW * shown.length + BOTTOM;
  const y = (at: number) => TOP + ROW * at + 16;
  const points: ChartPoint[] = shown.flatMap((band, at) => [
    { key: `${at}`, x: x(ratio(band.better)), y: y(at), words: bandWords(band) },
    ...band.dots.map((dot) => ({
      key: `${at}.${dot.test}`,
      x: x(ratio(dot.better)),
      y: y(at) + 17,
      words: `${band.label}, ${dot.name}: ${dot.told}`,
    })),
  ]);
  const seal = (band: Band, at: number) => {
    const position = band.column ? positionOf?.(band.column) : undefined;
    return position !== undefined && <SealMark x={12} y={y(at)} position={position} size={18} />;
  };
  return (
    <>
      <Chart
        label={label}
        width={whole}
        height={height}
        points={points}
        caption={cut ? caption + GOES_ON : caption}
        table={table}
      >
        <rect
          x={x(ratio(-margin))}
          width={x(1 + margin / 100) - x(ratio(-margin))}
          y={TOP}
          height={ROW * shown.length}
          fill="var(--color-band)"
        />
        <XAxis
          scale={x}
          ticks={ratioTicks(x.ends[0], x.ends[1])}
          at={height - BOTTOM}
          across={[TOP, height - BOTTOM]}
        />
        <line x1={x(1)} x2={x(1)} y1={TOP} y2={height - BOTTOM} stroke="var(--color-ink)" />
        {shown.map((band, at) => (
          <g key={at}>
            {seal(band, at)}
            <text
              x={left - 10}
              y={y(at) + 4}
              textAnchor="end"
              fill="var(--color-ink)"
              fontWeight={band.column === chosen ? 600 : undefined}
            >
              <title>{band.label}</title>
              {band.label.length > mostLabel ? `${band.label.slice(0, mostLabel - 1)}…` : band.label}
            </text>
            {band.low !== null && band.high !== null && (
              <Interval
                scale={x}
                low={ratio(band.low)}
                high={ratio(band.high)}
                along="x"
                at={y(at)}
                stroke={verdictInk(band.verdict)}
                width={2.6}
                dash={band.verdict === "undecided" ? "2.6 2.6" : undefined}
              />
            )}
            <g transform={`translate(0 ${y(at)})`}>
              {verdictPoint(x(ratio(band.better)), band.verdict, verdictInk(band.verdict), 0)}
            </g>
            {band.dots.map((dot) => (
              <circle
                key={dot.test}
                cx={x(ratio(dot.better))}
                cy={y(at) + 17}
                r="3.4"
                fill="none"
                stroke="var(--color-level)"
                strokeWidth="1.4"
              />
            ))}
          </g>
        ))}
      </Chart>
      {bands.length > MOST_BANDS && (
        <Button kind="link" onClick={() => setAll(!all)}>
          {all ? "Show fewer" : `Show all ${bands.length}`}
        </Button>
      )}
    </>
  );
}

/** The bands that are drawn at first; the one that is spoken of is always among them. */
function firstOf(bands: Band[], chosen?: number): Band[] {
  const first = bands.slice(0, MOST_BANDS);
  const own = bands.find((band) => band.column === chosen);
  return own && !first.includes(own) ? [...first.slice(0, -1), own] : first;
}

function bandWords(band: Band): string {
  const interval = band.interval ? `, ${band.interval}` : "";
  return `${band.label}: ${band.told}${interval}: ${band.verdict}`;
}

const STEPS = [1, 2, 5, 10, 20, 25];
const MULTIPLES = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];
// Between them, where fewer than four would be named.
const BETWEEN = [0.15, 0.3, 0.7, 1.2, 1.5, 3, 7, 15, 30];
const LEAST_NAMED = 4;

/** Names along an axis of ratios: per cent where it is narrow, multiples where it spans more than a half and a double. */
export function ratioTicks(low: number, high: number): Tick[] {
  if (low < 0.5 || high > 2) {
    const within = (one: number) => one >= low && one <= high;
    const plain = MULTIPLES.filter(within);
    const found =
      plain.length < LEAST_NAMED ? [...plain, ...BETWEEN.filter(within)].sort((a, b) => a - b) : plain;
    return found.map((value) => ({
      value,
      words: `${value} ×`,
    }));
  }
  const wide = 100 * (high - low);
  const step = STEPS.find((one) => wide / one <= 7) ?? 50;
  const first = Math.ceil((100 * low - 100) / step);
  const last = Math.floor((100 * high - 100) / step);
  return Array.from({ length: last - first + 1 }, (_, at) => (first + at) * step).map((change) => ({
    value: 1 + change / 100,
    words: change === 0 ? "100 %" : `${100 + change} %`,
  }));
}
