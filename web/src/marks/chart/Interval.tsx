import type { Scale } from "./scales";

interface Props {
  scale: Scale;
  low: number;
  high: number;
  /** The way the axis goes, and where on the other one the bar stands. */
  along: "x" | "y";
  at: number;
  stroke: string;
  width: number;
  dash?: string;
}

/** A bar between the ends of an interval; one that goes on beyond the axis ends in an arrow there. */
export function Interval({ scale, low, high, along, at, stroke, width, dash }: Props) {
  const [first, last] = scale.ends;
  const from = scale(Math.max(first, Math.min(last, low)));
  const to = scale(Math.max(first, Math.min(last, high)));
  const turned = along === "y";
  const way = Math.sign(scale(last) - scale(first));
  const arrow = (end: number, outward: number) => {
    const back = end - 6 * outward;
    return turned
      ? `M${at - 4} ${back}L${at} ${end}L${at + 4} ${back}`
      : `M${back} ${at - 4}L${end} ${at}L${back} ${at + 4}`;
  };
  return (
    <g stroke={stroke} strokeWidth={width} fill="none">
      <line
        x1={turned ? at : from}
        x2={turned ? at : to}
        y1={turned ? from : at}
        y2={turned ? to : at}
        strokeDasharray={dash}
      />
      {goesOn(scale, low, high) && (
        <path
          d={[low < first && arrow(from, -way), high > last && arrow(to, way)].filter(Boolean).join("")}
        />
      )}
    </g>
  );
}

/** Whether an interval goes on beyond the axis. */
export function goesOn(scale: Scale, low: number, high: number): boolean {
  return low < scale.ends[0] || high > scale.ends[1];
}

/** Words that stand with a chart in which an interval is cut. */
export const GOES_ON = " An arrow: the interval goes on beyond the axis.";
