import type { Scale } from "./scales";
import { onAxis } from "../words";

export interface Tick {
  value: number;
  words: string;
  /** A line that the eye should find: drawn darker and dashed. */
  strong?: boolean;
}

interface Props {
  scale: Scale;
  /** What is named; the scale's round values without it. */
  ticks?: Tick[];
  unit?: string;
  /** Where the axis stands, and how far its lines reach across the chart. */
  at: number;
  across: [number, number];
  /** Lines across the chart, short strokes at the axis, or names alone. */
  lines?: "grid" | "strokes" | "none";
}

const STROKE = 4;

function named(scale: Scale, unit: string): Tick[] {
  return scale.ticks.map((value) => ({
    value,
    words: onAxis(value, unit),
  }));
}

/** The values of a chart from top to bottom, named at its left. */
export function YAxis({ scale, unit = "", ticks = named(scale, unit), at, across, lines = "grid" }: Props) {
  return ticks.map(({ value, words, strong }) => (
    <g key={words}>
      {lines !== "none" && (
        <line
          x1={lines === "grid" ? across[0] : at - STROKE}
          x2={lines === "grid" ? across[1] : at}
          y1={scale(value)}
          y2={scale(value)}
          {...stroke(strong)}
        />
      )}
      <text x={at - 6} y={scale(value) + 4} textAnchor="end" fill="var(--color-quiet)">
        {words}
      </text>
    </g>
  ));
}

/** The values of a chart from left to right, named under it. */
export function XAxis({ scale, unit = "", ticks = named(scale, unit), at, across, lines = "grid" }: Props) {
  return ticks.map(({ value, words, strong }) => (
    <g key={words}>
      {lines !== "none" && (
        <line
          y1={lines === "grid" ? across[0] : at}
          y2={lines === "grid" ? across[1] : at + STROKE}
          x1={scale(value)}
          x2={scale(value)}
          {...stroke(strong)}
        />
      )}
      <text x={scale(value)} y={at + 14} textAnchor="middle" fill="var(--color-quiet)">
        {words}
      </text>
    </g>
  ));
}

function stroke(strong = false) {
  return strong ? { stroke: "var(--color-level)", strokeDasharray: "4 3" } : { stroke: "var(--color-line)" };
}
