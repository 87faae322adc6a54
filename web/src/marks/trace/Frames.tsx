import { useMemo, useState } from "react";
import uPlot from "uplot";
import type { Stretch } from "../../api/queries";
import { dashOf, valueAt, type TracedCell } from "../overlay";
import { FONT, GUTTER_LEFT, GUTTER_RIGHT, joined, timeAxis, token } from "../plot";
import { Plot } from "../Plot";
import { sealLetter } from "../Seal";
import { figure } from "../words";
import { cssInk, hooks } from "./hooks";

interface Props {
  cells: TracedCell[];
  range: Stretch;
  asRate: boolean;
  onStretch: (stretch: Stretch | null) => void;
  onCursor: (at: number | null) => void;
}

export const FRAMES_PX = 128;

/** Frame times, or rates, of all passes laid over one another; what no figure counts is shaded. */
export function Frames({ cells, range, asRate, onStretch, onCursor }: Props) {
  const [at, setAt] = useState<number | null>(null);
  const data = useMemo(
    () =>
      joined(
        cells.map((cell) => ({
          t: cell.trace.t_s,
          v: asRate ? cell.trace.frame_ms.map((ms) => 1000 / ms) : cell.trace.frame_ms,
        })),
      ),
    [cells, asRate],
  );
  const end = Math.max(...cells.map((cell) => cell.trace.duration_s));
  const options = useMemo<Omit<uPlot.Options, "width">>(() => {
    const tell = (time: number | null) => {
      setAt(time);
      onCursor(time);
    };
    const base = hooks(end, onStretch, tell);
    return {
      height: FRAMES_PX,
      padding: [6, GUTTER_RIGHT, 7, 0],
      legend: { show: false },
      ...base,
      hooks: { ...base.hooks, drawClear: [(plot) => shadeLeftOut(plot, cells)] },
      scales: {
        x: { time: false, range: (_plot, low, high) => [low, high] },
        y: { range: (_plot, _low, high) => [0, (high || 1) * 1.06] },
      },
      axes: [
        timeAxis(false),
        {
          font: FONT,
          stroke: token("quiet"),
          size: GUTTER_LEFT,
          gap: 6,
          space: 30,
          grid: { stroke: token("line"), width: 1 },
          ticks: { show: false },
          values: (_plot, splits) =>
            splits.map((value, index) =>
              index === splits.length - 1 ? `${value} ${asRate ? "fps" : "ms"}` : `${value}`,
            ),
        },
      ],
      series: [
        {},
        ...cells.map((cell) => ({
          label: cell.label,
          stroke: cssInk(cell.position),
          width: 1,
          dash: dashOf(cell.layer),
          points: { show: false },
          spanGaps: true,
        })),
      ],
    };
  }, [cells, asRate, end, onStretch, onCursor]);
  const label = cells
    .map(
      (cell) =>
        `${cell.label}, pass ${cell.number}: ${cell.trace.frames} frames, ${cell.trace.hitches_s.length} hitches`,
    )
    .join("; ");
  return (
    <div className="relative">
      <Plot
        options={options}
        data={data}
        from={range.from}
        to={range.to}
        label={`Frame ${asRate ? "rate" : "time"} over the run. ${label}.`}
      />
      <span className="pointer-events-none absolute top-0 right-2 bg-sheet px-1 text-small text-quiet">
        {at !== null && readout(cells, at, asRate)}
      </span>
    </div>
  );
}

function readout(cells: TracedCell[], at: number, asRate: boolean): string {
  const parts = cells.map((cell) => {
    const value = valueAt(cell.trace.t_s, cell.trace.frame_ms, at);
    const name = `${sealLetter(cell.position)}${cells.length > 1 ? ` ${cell.number}` : ""}`;
    if (value === null) return "";
    return asRate ? `${name}: ${figure(1000 / value)} fps` : `${name}: ${figure(value)} ms`;
  });
  return [`${figure(at)} s`, ...parts].filter(Boolean).join(" · ");
}

/** The warm-up, the end cut and ranges set aside, which no figure counts. */
function shadeLeftOut(plot: uPlot, cells: TracedCell[]): void {
  const first = cells[0];
  if (!first) return;
  const { left, top, width, height } = plot.bbox;
  const x = (at: number) => Math.min(Math.max(plot.valToPos(at, "x", true), left), left + width);
  plot.ctx.fillStyle = token("band");
  const { counts_from_s, counts_to_s } = first.trace;
  if (counts_from_s > 0.001) plot.ctx.fillRect(left, top, x(counts_from_s) - left, height);
  if (x(counts_to_s) < left + width - 1) {
    plot.ctx.fillRect(x(counts_to_s), top, left + width - x(counts_to_s), height);
  }
  for (const one of first.aside ?? []) {
    const from = x(one.start_s + first.shift);
    plot.ctx.fillRect(from, top, x(one.end_s + first.shift) - from, height);
  }
}
