import { useMemo } from "react";
import type uPlot from "uplot";
import type { Stretch } from "../../api/queries";
import { dashOf, valueAt, type TracedCell } from "../overlay";
import { GUTTER_LEFT, GUTTER_RIGHT, joined, timeAxis, token } from "../plot";
import { Plot } from "../Plot";
import { sealLetter } from "../Seal";
import { bare } from "../words";
import { cssInk, hooks } from "./hooks";
import { warmthUnit } from "../../design/writing";

interface Props {
  name: string;
  cells: TracedCell[];
  range: Stretch;
  /** Where the cursor is, so that every lane tells its value there. */
  at: number | null;
  last: boolean;
  onStretch: (stretch: Stretch | null) => void;
  onCursor: (at: number | null) => void;
}

const LANE_PX = 22;

/** One sensor of all passes; its capacity is the lane's full height. */
export function LaneView({ name, cells, range, at, last, onStretch, onCursor }: Props) {
  const lanes = useMemo(
    () =>
      cells.flatMap((cell) => {
        const lane = cell.trace.lanes.find((one) => one.name === name);
        return lane ? [{ cell, lane }] : [];
      }),
    [cells, name],
  );
  const data = useMemo(() => joined(lanes.map(({ lane }) => ({ t: lane.t_s, v: lane.values }))), [lanes]);
  const end = Math.max(...cells.map((cell) => cell.trace.duration_s));
  const options = useMemo<Omit<uPlot.Options, "width">>(() => {
    const shared = hooks(end, onStretch, onCursor);
    const values = lanes.flatMap(({ lane }) => lane.values).filter((v): v is number => v !== null);
    const capacity = lanes[0]?.lane.capacity ?? null;
    const limit = lanes[0]?.lane.limit ?? null;
    const top = capacity ?? Math.max(limit ?? 0, Math.max(...values, 1e-9) * (limit === null ? 1.05 : 1));
    const floor = capacity === null ? Math.min(...values, top) * 0.9 : 0;
    return {
      height: LANE_PX + (last ? 22 : 0),
      padding: [1, GUTTER_RIGHT, 1, GUTTER_LEFT],
      legend: { show: false },
      ...shared,
      hooks: {
        ...shared.hooks,
        draw: limit !== null && top > limit ? [(plot) => limitLine(plot, limit)] : [],
      },
      scales: {
        x: { time: false, range: (_plot, low, high) => [low, high] },
        y: { range: () => [floor, top] },
      },
      axes: [timeAxis(last), { show: false }],
      series: [
        {},
        ...lanes.map(({ cell }) => ({
          stroke: cssInk(cell.position),
          width: 1.4,
          dash: dashOf(cell.layer),
          points: { show: false },
          spanGaps: true,
        })),
      ],
    };
  }, [lanes, end, last, onStretch, onCursor]);
  const sensor = lanes[0]?.lane;
  if (!sensor) return null;
  const doubts = [
    ...new Set(
      lanes.flatMap(({ lane }) => [
        ...(lane.doubted ?? []).map((one) => `${one.kind}, in no figure: ${one.reason}`),
        ...lane.doubts,
      ]),
    ),
  ];
  // Of a temperature the peak is asked for, of everything else the usual.
  const hottest = sensor.unit === "°C";
  const usual = hottest ? "peak" : "median";
  const summary = summed(lanes, at, hottest);
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
          <Plot
            options={options}
            data={data}
            from={range.from}
            to={range.to}
            label={`${name}: ${usual} ${summary}`}
          />
        </div>
      </div>
      <span className="hidden w-44 shrink-0 pl-2 text-note text-quiet md:block">
        {at === null && usual} {summary}
        {doubts.length > 0 && (
          <span className="block truncate text-small text-mark" title={doubts.join("; ")}>
            ⚑ {doubts.join("; ")}
          </span>
        )}
      </span>
    </div>
  );
}

/** The declared limit, where the lane reaches over it; otherwise it is the lane's full height. */
function limitLine(plot: uPlot, limit: number): void {
  const { left, width } = plot.bbox;
  const y = plot.valToPos(limit, "y", true);
  plot.ctx.save();
  plot.ctx.strokeStyle = token("mark");
  plot.ctx.setLineDash([4, 4]);
  plot.ctx.beginPath();
  plot.ctx.moveTo(left, y);
  plot.ctx.lineTo(left + width, y);
  plot.ctx.stroke();
  plot.ctx.restore();
}

type Shown = { cell: TracedCell; lane: TracedCell["trace"]["lanes"][number] }[];

/** The value of each pass, or from the least to the most where there are many. */
function summed(lanes: Shown, at: number | null, hottest: boolean): string {
  const values = lanes.map(({ lane }) =>
    at !== null ? valueAt(lane.t_s, lane.values, at) : hottest ? lane.peak : lane.median,
  );
  const first = lanes[0]?.lane;
  if (!first) return "";
  const full = first.unit === "%" ? null : (first.capacity ?? first.limit ?? null);
  const unit = `${full !== null ? `of ${bare(full, first.unit)} ` : ""}${warmthUnit(first.unit)}`;
  const there = values.filter((value) => value !== null);
  if (lanes.length > 2) {
    if (!there.length) return "no value";
    const [least, most] = [bare(Math.min(...there), first.unit), bare(Math.max(...there), first.unit)];
    return `${least === most ? least : `${least} to ${most}`} ${unit}`;
  }
  return lanes
    .map(({ cell }, index) => {
      const value = values[index];
      const letter = lanes.length > 1 ? `${sealLetter(cell.position)} ` : "";
      return `${letter}${value === null || value === undefined ? "no value" : bare(value, first.unit)} ${unit}`;
    })
    .join(", ");
}
