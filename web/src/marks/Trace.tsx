import { useMemo, useState } from "react";
import uPlot from "uplot";
import type { TraceShape } from "../api/client";
import type { Stretch } from "../api/queries";
import { Button } from "../design/Button";
import { FONT, GUTTER_LEFT, GUTTER_RIGHT, joined, timeAxis, token } from "./plot";
import { Plot } from "./Plot";
import { sealInk, sealLetter } from "./Seal";
import { figure } from "./words";

export interface TracedCell {
  position: number;
  label: string;
  trace: TraceShape;
  /** Parts of the run that people marked. */
  marks?: { id: number; label: string; start_s: number; end_s: number | null }[];
}

interface Props {
  cells: TracedCell[];
  stretch: Stretch | null;
  onStretch: (stretch: Stretch | null) => void;
}

const LEADING = [
  "graphics use",
  "busiest core",
  "memory used",
  "temperature",
  "clock",
  "power",
  "processor use",
];
const FEW_LANES = 5;
const SYNC = "trace";

/** Frame times upward in ms, hitch ticks under them, and sensor lanes below on the same time axis. */
export function Trace({ cells, stretch, onStretch }: Props) {
  const [all, setAll] = useState(false);
  const names = laneNames(cells);
  const shown = all ? names : names.slice(0, FEW_LANES);
  const end = Math.max(...cells.map((cell) => cell.trace.duration_s));
  const range: Stretch = stretch ?? { from: 0, to: end };
  const hasFrames = cells.some((cell) => cell.trace.t_s.length > 0);
  return (
    <div>
      {hasFrames && (
        <div className="md:pr-44">
          <Frames cells={cells} range={range} onStretch={onStretch} />
          <Hitches cells={cells} range={range} />
          <Parts cells={cells} range={range} />
        </div>
      )}
      {shown.map((name, at) => (
        <Lane
          key={name}
          name={name}
          cells={cells}
          range={range}
          last={at === shown.length - 1}
          onStretch={onStretch}
        />
      ))}
      <div className="mt-1 flex items-center gap-3 text-note text-quiet">
        <ZoomKeys range={range} end={end} onStretch={onStretch} />
        {names.length > FEW_LANES && (
          <Button kind="link" onClick={() => setAll(!all)}>
            {all ? "fewer sensors" : `all ${names.length} sensors`}
          </Button>
        )}
        <span>lower is better · drag to zoom, double click for the whole run</span>
      </div>
    </div>
  );
}

function laneNames(cells: TracedCell[]): string[] {
  const names = [...new Set(cells.flatMap((cell) => cell.trace.lanes.map((lane) => lane.name)))];
  const rank = (name: string) => (LEADING.includes(name) ? LEADING.indexOf(name) : LEADING.length);
  return names.sort((a, b) => rank(a) - rank(b));
}

function ZoomKeys({ range, end, onStretch }: { range: Stretch; end: number; onStretch: Props["onStretch"] }) {
  const width = range.to - range.from;
  const move = (from: number, to: number) => {
    const low = Math.max(0, from);
    const high = Math.min(end, to);
    onStretch(low <= 0 && high >= end ? null : { from: low, to: high });
  };
  const middle = (range.from + range.to) / 2;
  return (
    <span className="flex gap-1" role="group" aria-label="Zoom">
      <Button kind="bare" aria-label="Zoom in" onClick={() => move(middle - width / 4, middle + width / 4)}>
        +
      </Button>
      <Button kind="bare" aria-label="Zoom out" onClick={() => move(middle - width, middle + width)}>
        −
      </Button>
      <Button
        kind="bare"
        aria-label="Earlier"
        onClick={() => move(range.from - width / 2, range.to - width / 2)}
      >
        ‹
      </Button>
      <Button
        kind="bare"
        aria-label="Later"
        onClick={() => move(range.from + width / 2, range.to + width / 2)}
      >
        ›
      </Button>
      <Button kind="bare" onClick={() => onStretch(null)}>
        whole run
      </Button>
    </span>
  );
}

function cssInk(position: number): string {
  return getComputedStyle(document.documentElement).getPropertyValue(sealInk(position).slice(4, -1)).trim();
}

function hooks(onStretch: Props["onStretch"]): Partial<uPlot.Options> {
  return {
    cursor: {
      sync: { key: SYNC },
      drag: { x: true, y: false, setScale: false },
      points: { size: 6 },
      bind: {
        dblclick: () => () => {
          onStretch(null);
          return null;
        },
      },
    },
    hooks: {
      setSelect: [
        (plot) => {
          if (plot.select.width < 4) return;
          onStretch({
            from: plot.posToVal(plot.select.left, "x"),
            to: plot.posToVal(plot.select.left + plot.select.width, "x"),
          });
          plot.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false);
        },
      ],
    },
  };
}

function Frames({
  cells,
  range,
  onStretch,
}: {
  cells: TracedCell[];
  range: Stretch;
  onStretch: Props["onStretch"];
}) {
  const data = useMemo(
    () => joined(cells.map((cell) => ({ t: cell.trace.t_s, v: cell.trace.frame_ms }))),
    [cells],
  );
  const { from, to } = range;
  const [readout, setReadout] = useState<string>("");
  const options = useMemo<Omit<uPlot.Options, "width">>(() => {
    const base = hooks(onStretch);
    return {
      height: 128,
      padding: [6, GUTTER_RIGHT, 7, 0],
      legend: { show: false },
      ...base,
      hooks: {
        ...base.hooks,
        drawClear: [(plot) => shadeCuts(plot, cells)],
        setCursor: [(plot) => setReadout(readoutAt(plot, cells))],
      },
      scales: {
        x: { time: false, range: () => [from, to] },
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
            splits.map((value, at) => (at === splits.length - 1 ? `${value} ms` : `${value}`)),
        },
      ],
      series: [
        {},
        ...cells.map((cell) => ({
          label: cell.label,
          stroke: cssInk(cell.position),
          width: 1,
          points: { show: false },
          spanGaps: true,
        })),
      ],
    };
  }, [cells, from, to, onStretch]);
  const label = cells
    .map((cell) => `${cell.label}: ${cell.trace.frames} frames, ${cell.trace.hitches_s.length} hitches`)
    .join("; ");
  return (
    <div className="relative">
      <Plot options={options} data={data} label={`Frame time over the run. ${label}.`} />
      <span className="pointer-events-none absolute top-0 right-2 bg-sheet px-1 text-small text-quiet">
        {readout}
      </span>
    </div>
  );
}

function readoutAt(plot: uPlot, cells: TracedCell[]): string {
  const at = plot.cursor.idx;
  const time = at === null || at === undefined ? undefined : plot.data[0][at];
  if (time === undefined || (plot.cursor.left ?? -1) < 0) return "";
  const parts = cells.map((cell) => {
    const index = cell.trace.t_s.findIndex((t) => t >= time);
    const value = cell.trace.frame_ms[index];
    return value === undefined ? "" : `${sealLetter(cell.position)} ${figure(value)} ms`;
  });
  return [`${figure(time)} s`, ...parts].filter(Boolean).join(" · ");
}

/** The warm-up and end cut, which no figure counts. */
function shadeCuts(plot: uPlot, cells: TracedCell[]): void {
  const first = cells[0]?.trace;
  if (!first) return;
  const { left, top, width, height } = plot.bbox;
  plot.ctx.fillStyle = token("band");
  const from = Math.min(Math.max(plot.valToPos(first.counts_from_s, "x", true), left), left + width);
  const to = Math.min(Math.max(plot.valToPos(first.counts_to_s, "x", true), left), left + width);
  if (first.counts_from_s > 0.001) plot.ctx.fillRect(left, top, from - left, height);
  if (to < left + width - 1) plot.ctx.fillRect(to, top, left + width - to, height);
}

function Hitches({ cells, range }: { cells: TracedCell[]; range: Stretch }) {
  const width = range.to - range.from;
  return (
    <div className="flex items-center" style={{ paddingLeft: GUTTER_LEFT, paddingRight: GUTTER_RIGHT }}>
      <svg className="h-3 w-full" viewBox="0 0 1000 12" preserveAspectRatio="none" aria-hidden="true">
        {cells.flatMap((cell) =>
          cell.trace.hitches_s
            .filter((at) => at >= range.from && at <= range.to)
            .map((at) => {
              const x = ((at - range.from) / width) * 1000;
              return (
                <path key={`${cell.position}-${at}`} d={`M${x} 2l3 8h-6z`} fill={sealInk(cell.position)} />
              );
            }),
        )}
      </svg>
    </div>
  );
}

/** Marked parts of a run as bars with their names, moments as ticks. */
function Parts({ cells, range }: { cells: TracedCell[]; range: Stretch }) {
  const marks = cells.flatMap((cell) => (cell.marks ?? []).map((mark) => ({ cell, mark })));
  if (!marks.length) return null;
  const at = (t: number) =>
    100 * Math.min(1, Math.max(0, (t - range.from) / Math.max(1e-9, range.to - range.from)));
  return (
    <div style={{ paddingLeft: GUTTER_LEFT, paddingRight: GUTTER_RIGHT }} aria-hidden="true">
      <div className="relative h-4 text-small">
        {marks.map(({ cell, mark }) => {
          const left = at(mark.start_s);
          const width = mark.end_s === null ? 0 : at(mark.end_s) - left;
          return (
            <span
              key={mark.id}
              title={mark.label}
              className={`absolute top-0 h-4 overflow-hidden border-l-2 pl-1 text-ellipsis whitespace-nowrap ${width > 0 ? "bg-band" : ""}`}
              style={{
                left: `${left}%`,
                width: width > 0 ? `${width}%` : "auto",
                borderColor: sealInk(cell.position),
              }}
            >
              {mark.label}
            </span>
          );
        })}
      </div>
    </div>
  );
}

interface LaneProps {
  name: string;
  cells: TracedCell[];
  range: Stretch;
  last: boolean;
  onStretch: Props["onStretch"];
}

const LANE_PX = 22;

function Lane({ name, cells, range, last, onStretch }: LaneProps) {
  const lanes = useMemo(
    () =>
      cells.flatMap((cell) => {
        const lane = cell.trace.lanes.find((one) => one.name === name);
        return lane ? [{ cell, lane }] : [];
      }),
    [cells, name],
  );
  const data = useMemo(() => joined(lanes.map(({ lane }) => ({ t: lane.t_s, v: lane.values }))), [lanes]);
  const { from, to } = range;
  const options = useMemo<Omit<uPlot.Options, "width">>(() => {
    const values = lanes.flatMap(({ lane }) => lane.values).filter((v): v is number => v !== null);
    const capacity = lanes[0]?.lane.capacity ?? null;
    const top = capacity ?? Math.max(...values, 1e-9) * 1.05;
    const floor = capacity === null ? Math.min(...values, top) * 0.9 : 0;
    return {
      height: LANE_PX + (last ? 22 : 0),
      padding: [1, GUTTER_RIGHT, 1, GUTTER_LEFT],
      legend: { show: false },
      ...hooks(onStretch),
      scales: { x: { time: false, range: () => [from, to] }, y: { range: () => [floor, top] } },
      axes: [timeAxis(last), { show: false }],
      series: [
        {},
        ...lanes.map(({ cell }) => ({
          stroke: cssInk(cell.position),
          width: 1.4,
          points: { show: false },
          spanGaps: true,
        })),
      ],
    };
  }, [lanes, from, to, last, onStretch]);
  const sensor = lanes[0]?.lane;
  if (!sensor) return null;
  const doubts = [...new Set(lanes.flatMap(({ lane }) => lane.doubts))];
  // Of a temperature the peak is asked for, of everything else the usual.
  const hottest = sensor.unit === "°C";
  const summary = lanes
    .map(({ cell, lane }) => {
      const of = lane.capacity !== null && lane.unit !== "%" ? ` of ${figure(lane.capacity)}` : "";
      const letter = lanes.length > 1 ? `${sealLetter(cell.position)} ` : "";
      const value = hottest ? lane.peak : lane.median;
      return `${letter}${value === null ? "no value" : figure(value)}${of} ${lane.unit}`;
    })
    .join(", ");
  return (
    <div className="mb-1 flex items-start">
      <div className="relative min-w-0 flex-1">
        <span
          className="absolute top-0.5 left-0 overflow-hidden pr-2 text-right text-note text-ellipsis whitespace-nowrap"
          style={{ width: GUTTER_LEFT }}
          title={`${sensor.place}; ${sensor.source}`}
        >
          {name}
        </span>
        <span
          className="absolute top-0 -z-0 bg-band opacity-50"
          style={{ left: GUTTER_LEFT, right: GUTTER_RIGHT, height: LANE_PX }}
        />
        <div className="relative">
          <Plot options={options} data={data} label={`${name}: ${hottest ? "peak" : "median"} ${summary}`} />
        </div>
      </div>
      <span className="hidden w-44 shrink-0 pl-2 md:block text-note text-quiet">
        {hottest ? "peak" : "median"} {summary}
        {doubts.length > 0 && (
          <span className="block truncate text-small text-mark" title={doubts.join("; ")}>
            ⚑ {doubts.join("; ")}
          </span>
        )}
      </span>
    </div>
  );
}
