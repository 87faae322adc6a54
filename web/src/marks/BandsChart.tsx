import type { Shapes } from "../api/client";
import { XAxis, type Tick } from "./chart/Axis";
import { Chart, type ChartPoint } from "./chart/Chart";
import { logarithmic } from "./chart/scales";
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
  width?: number;
}

const LEFT = 190;
const RIGHT = 18;
const TOP = 8;
const BOTTOM = 24;
const ROW = 46;
const MOST_LABEL = 30;

/** Changes as marks on one axis of equal ratios, better to the right, with single tests as small rings under each. */
export function BandsChart({ bands, margin, label, caption, table, chosen, width = 640 }: Props) {
  const ratio = (better: number) => Math.max(0.001, 1 + better / 100);
  const values = bands.flatMap((band) => [
    band.better,
    band.low ?? band.better,
    band.high ?? band.better,
    ...band.dots.map((dot) => dot.better),
  ]);
  const ends = [...values, margin, -margin].map(ratio);
  const x = logarithmic([Math.min(...ends) * 0.985, Math.max(...ends) * 1.015], [LEFT, width - RIGHT]);
  const height = TOP + ROW * bands.length + BOTTOM;
  const y = (at: number) => TOP + ROW * at + 16;
  const points: ChartPoint[] = bands.flatMap((band, at) => [
    { key: `${at}`, x: x(ratio(band.better)), y: y(at), words: bandWords(band) },
    ...band.dots.map((dot) => ({
      key: `${at}.${dot.test}`,
      x: x(ratio(dot.better)),
      y: y(at) + 17,
      words: `${band.label}, ${dot.name}: ${dot.told}`,
    })),
  ]);
  return (
    <Chart label={label} width={width} height={height} points={points} caption={caption} table={table}>
      <rect
        x={x(ratio(-margin))}
        width={x(1 + margin / 100) - x(ratio(-margin))}
        y={TOP}
        height={ROW * bands.length}
        fill="var(--color-band)"
      />
      <XAxis
        scale={x}
        ticks={ratioTicks(x.ends[0], x.ends[1])}
        at={height - BOTTOM}
        across={[TOP, height - BOTTOM]}
      />
      <line x1={x(1)} x2={x(1)} y1={TOP} y2={height - BOTTOM} stroke="var(--color-ink)" />
      {bands.map((band, at) => (
        <g key={at}>
          <text
            x={LEFT - 10}
            y={y(at) + 4}
            textAnchor="end"
            fill="var(--color-ink)"
            fontWeight={band.column === chosen ? 600 : undefined}
          >
            <title>{band.label}</title>
            {band.label.length > MOST_LABEL ? `${band.label.slice(0, MOST_LABEL - 1)}…` : band.label}
          </text>
          {band.low !== null && band.high !== null && (
            <line
              x1={x(ratio(band.low))}
              x2={x(ratio(band.high))}
              y1={y(at)}
              y2={y(at)}
              stroke={verdictInk(band.verdict)}
              strokeWidth="2.6"
              strokeDasharray={band.verdict === "undecided" ? "2.6 2.6" : undefined}
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
  );
}

function bandWords(band: Band): string {
  const interval = band.interval ? `, ${band.interval}` : "";
  return `${band.label}: ${band.told}${interval}: ${band.verdict}`;
}

const STEPS = [1, 2, 5, 10, 20, 25];
const MULTIPLES = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];

/** Names along an axis of ratios: per cent where it is narrow, multiples where it spans more than a half and a double. */
export function ratioTicks(low: number, high: number): Tick[] {
  if (low < 0.5 || high > 2) {
    return MULTIPLES.filter((one) => one >= low && one <= high).map((value) => ({
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
