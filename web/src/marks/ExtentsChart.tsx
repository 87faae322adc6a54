import { useState } from "react";
import type { Shapes } from "../api/client";
import { Button } from "../design/Button";
import { XAxis } from "./chart/Axis";
import { Chart, type ChartPoint } from "./chart/Chart";
import { GOES_ON, goesOn, Interval } from "./chart/Interval";
import { useNarrow } from "./chart/narrow";
import { linear, spanOf } from "./chart/scales";
import { SealMark } from "./Seal";
import { onAxis } from "./words";
import { warmthUnit } from "../design/writing";

type Extents = Shapes["ExtentsShape"];

interface Props {
  extents: Extents;
  label: string;
  /** Where a configuration's seal stands among the letters. */
  positionOf: (column: number) => number | undefined;
  table?: { columns: string[]; rows: string[][] };
  width?: number;
}

const LEFT = { wide: 232, narrow: 140 };
const WIDTH = { wide: 680, narrow: 400 };
const RIGHT = 30;
const TOP = 26;
const BOTTOM = 42;
const ROW = 30;
const MOST_LABEL = { wide: 32, narrow: 15 };
// More rows are opened on request, those first that come first.
const MOST_ROWS = 20;

/** Rows on one axis: a bar from 0, or a point with its interval, and further marks told by their words. */
export function ExtentsChart({ extents, label, positionOf, table, width: asked }: Props) {
  const room = useNarrow() ? "narrow" : "wide";
  const width = asked ?? WIDTH[room];
  const left = LEFT[room];
  const mostLabel = MOST_LABEL[room];
  const [all, setAll] = useState(false);
  const rows = all ? extents.rows : extents.rows.slice(0, MOST_ROWS);
  const { zero, unit } = extents.axis;
  const values = rows.flatMap((row) => [row.value ?? 0, ...row.marks.map((mark) => mark.value)]);
  const ends = rows.flatMap((row) => [row.low ?? row.value ?? 0, row.high ?? row.value ?? 0]);
  const rules = extents.rules.map((rule) => rule.at);
  const [low, high] = spanOf([...values, ...rules, ...(zero ? [0] : [])], ends);
  const pad = 0.04 * (high - low || 1);
  const x = linear([zero ? Math.min(0, low) : low - pad, high + pad], [left, width - RIGHT]);
  const height = TOP + ROW * rows.length + BOTTOM;
  const y = (at: number) => TOP + ROW * at + ROW / 2;
  const foot = TOP + ROW * rows.length + 4;
  const points: ChartPoint[] = rows.flatMap((row, at) => [
    ...(row.value === null
      ? []
      : [{ key: `${at}`, x: x(row.value), y: y(at), words: `${row.label}: ${row.told}` }]),
    ...row.marks.map((mark, place) => ({
      key: `${at}.${place}`,
      x: x(mark.value),
      y: y(at),
      words: `${row.label}: ${mark.words} ${onAxis(mark.value, unit, 4)}`,
    })),
  ]);
  return (
    <>
      <Chart
        label={label}
        width={width}
        height={height}
        points={points}
        caption={ends.some((end) => goesOn(x, end, end)) ? extents.caption + GOES_ON : extents.caption}
        table={table}
      >
        <XAxis scale={x} at={foot} across={[TOP, foot]} />
        <text x={(left + width - RIGHT) / 2} y={height - 6} textAnchor="middle" fill="var(--color-quiet)">
          {[extents.axis.label, unit && `in ${warmthUnit(unit)}`].filter(Boolean).join(", ")}
        </text>
        {rows.map((row, at) => {
          const position = row.column ? positionOf(row.column) : undefined;
          return (
            <g key={at}>
              {position !== undefined && <SealMark x={14} y={y(at)} position={position} size={18} />}
              <text x={position === undefined ? 6 : 28} y={y(at) + 4} fill="var(--color-ink)">
                <title>{row.label}</title>
                {row.label.length > mostLabel ? `${row.label.slice(0, mostLabel - 1)}…` : row.label}
              </text>
              {row.value !== null && zero && (
                <rect
                  x={Math.min(x(0), x(row.value))}
                  width={Math.abs(x(row.value) - x(0))}
                  y={y(at) - 7}
                  height={14}
                  fill="var(--color-band)"
                  stroke="var(--color-ink)"
                />
              )}
              {row.low !== null && row.high !== null && (
                <Interval
                  scale={x}
                  low={row.low}
                  high={row.high}
                  along="x"
                  at={y(at)}
                  stroke="var(--color-ink)"
                  width={2.4}
                />
              )}
              {row.value !== null && !zero && (
                <circle
                  cx={x(row.value)}
                  cy={y(at)}
                  r="4.6"
                  fill="var(--color-sheet)"
                  stroke="var(--color-ink)"
                  strokeWidth="2.2"
                />
              )}
              {row.marks.map((mark) => (
                <rect
                  key={`${mark.words}${mark.value}`}
                  x={-5}
                  y={-5}
                  width="10"
                  height="10"
                  transform={`translate(${x(mark.value)} ${y(at)}) rotate(45)`}
                  fill={mark.open ? "var(--color-sheet)" : "var(--color-ink)"}
                  stroke="var(--color-ink)"
                  strokeWidth="1.8"
                />
              ))}
            </g>
          );
        })}
        {extents.rules.map((rule) => (
          <g key={rule.words}>
            <line
              x1={x(rule.at)}
              x2={x(rule.at)}
              y1={TOP - 6}
              y2={foot}
              stroke="var(--color-mark)"
              strokeDasharray="3 3"
            />
            <text
              x={x(rule.at)}
              y={TOP - 10}
              textAnchor={x(rule.at) > width - 160 ? "end" : "middle"}
              fill="var(--color-mark)"
              fontWeight="600"
            >
              {rule.words}
            </text>
          </g>
        ))}
      </Chart>
      {extents.rows.length > MOST_ROWS && (
        <Button kind="link" onClick={() => setAll(!all)}>
          {all ? "Show fewer rows" : `Show all ${extents.rows.length} rows`}
        </Button>
      )}
    </>
  );
}
