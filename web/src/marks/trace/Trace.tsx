import { useMemo, useState } from "react";
import type { Stretch } from "../../api/queries";
import { Button } from "../../design/Button";
import { Bands, bandWords } from "../Bands";
import { moved, type TracedCell } from "../overlay";
import { GUTTER_LEFT, GUTTER_RIGHT } from "../plot";
import { sealInk, sealLetter } from "../Seal";
import { CutHandles, type Cuts } from "./CutHandles";
import { Frames } from "./Frames";
import { LaneView } from "./LaneView";
import { ZoomKeys } from "./ZoomKeys";

interface Props {
  cells: TracedCell[];
  stretch: Stretch | null;
  onStretch: (stretch: Stretch | null) => void;
  /** Given to those who may move the warm-up and the end cut of the test. */
  onCuts?: (cuts: Cuts) => void;
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

/** Frame times upward in ms, hitch ticks and what limits the run under them, and sensor lanes on the same time axis. */
export function Trace({ cells: given, stretch, onStretch, onCuts }: Props) {
  const [all, setAll] = useState(false);
  const [asRate, setAsRate] = useState(false);
  const [at, setAt] = useState<number | null>(null);
  const cells = useMemo(
    () => given.map((cell) => ({ ...cell, trace: moved(cell.trace, cell.shift) })),
    [given],
  );
  const names = laneNames(cells);
  const shown = all ? names : names.slice(0, FEW_LANES);
  const end = Math.max(...cells.map((cell) => cell.trace.duration_s));
  const range: Stretch = stretch ?? { from: 0, to: end };
  const hasFrames = cells.some((cell) => cell.trace.t_s.length > 0);
  return (
    <div>
      {hasFrames && (
        <div className="md:pr-44">
          <div className="relative">
            <Frames cells={cells} range={range} asRate={asRate} onStretch={onStretch} onCursor={setAt} />
            <CutHandles cells={cells} range={range} onCuts={onCuts} />
          </div>
          <Hitches cells={cells} range={range} />
          <Parts cells={cells} range={range} />
        </div>
      )}
      {cells.map((cell) => (
        <BandRow key={cell.key} cell={cell} range={range} at={at} several={cells.length > 1} />
      ))}
      {shown.map((name, index) => (
        <LaneView
          key={name}
          name={name}
          cells={cells}
          range={range}
          at={at}
          last={index === shown.length - 1}
          onStretch={onStretch}
          onCursor={setAt}
        />
      ))}
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-note text-quiet">
        <ZoomKeys range={range} end={end} onStretch={onStretch} />
        {hasFrames && (
          <Button kind="link" aria-pressed={asRate} onClick={() => setAsRate(!asRate)}>
            {asRate ? "as frame times" : "as a rate"}
          </Button>
        )}
        {names.length > FEW_LANES && (
          <Button kind="link" onClick={() => setAll(!all)}>
            {all ? "fewer sensors" : `all ${names.length} sensors`}
          </Button>
        )}
        <span>
          {asRate ? "higher is better" : "lower is better"} · drag or turn the wheel to zoom, double click for
          the whole run
        </span>
      </div>
    </div>
  );
}

function laneNames(cells: TracedCell[]): string[] {
  const names = [...new Set(cells.flatMap((cell) => cell.trace.lanes.map((lane) => lane.name)))];
  const rank = (name: string) => (LEADING.includes(name) ? LEADING.indexOf(name) : LEADING.length);
  return names.sort((a, b) => rank(a) - rank(b));
}

const GUTTERS = { paddingLeft: GUTTER_LEFT, paddingRight: GUTTER_RIGHT };

function Hitches({ cells, range }: { cells: TracedCell[]; range: Stretch }) {
  const width = range.to - range.from;
  return (
    <div className="flex items-center" style={GUTTERS}>
      <svg className="h-3 w-full" viewBox="0 0 1000 12" preserveAspectRatio="none" aria-hidden="true">
        {cells.flatMap((cell) =>
          cell.trace.hitches_s
            .filter((at) => at >= range.from && at <= range.to)
            .map((at) => {
              const x = ((at - range.from) / width) * 1000;
              return <path key={`${cell.key}-${at}`} d={`M${x} 2l3 8h-6z`} fill={sealInk(cell.position)} />;
            }),
        )}
      </svg>
    </div>
  );
}

/** Marked parts of a run as bars with their names, moments as ticks, and ranges set aside struck through. */
function Parts({ cells, range }: { cells: TracedCell[]; range: Stretch }) {
  const marks = cells.flatMap((cell) => [
    ...(cell.marks ?? []).map((mark) => ({ ...mark, cell, aside: false })),
    ...(cell.aside ?? []).map((one, at) => ({
      id: -1 - at,
      label: `set aside: ${one.reason}`,
      start_s: one.start_s,
      end_s: one.end_s,
      cell,
      aside: true,
    })),
  ]);
  if (!marks.length) return null;
  const at = (t: number) =>
    100 * Math.min(1, Math.max(0, (t - range.from) / Math.max(1e-9, range.to - range.from)));
  return (
    <div style={GUTTERS} aria-hidden="true">
      <div className="relative h-4 text-small">
        {marks.map((mark) => {
          const left = at(mark.start_s + mark.cell.shift);
          const width = mark.end_s === null ? 0 : at(mark.end_s + mark.cell.shift) - left;
          return (
            <span
              key={`${mark.cell.key}.${mark.id}`}
              title={mark.label}
              className={`absolute top-0 h-4 overflow-hidden border-l-2 pl-1 text-ellipsis whitespace-nowrap ${width > 0 ? "bg-band" : ""} ${mark.aside ? "text-mark line-through" : ""}`}
              style={{
                left: `${left}%`,
                width: width > 0 ? `${width}%` : "auto",
                borderColor: mark.aside ? "var(--color-mark)" : sealInk(mark.cell.position),
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

interface BandRowProps {
  cell: TracedCell;
  range: Stretch;
  at: number | null;
  several: boolean;
}

/** What limits the run, second by second, and what it is at the cursor. */
function BandRow({ cell, range, at, several }: BandRowProps) {
  const bands = cell.trace.bands ?? [];
  if (!bands.length) return null;
  const here = at === null ? undefined : bands.find((band) => at >= band.from_s && at < band.to_s);
  const name = several ? `${sealLetter(cell.position)} pass ${cell.number}` : "limited by";
  const words = bands.map((band) => `${band.kind || "set aside"} from ${band.from_s} to ${band.to_s} s`);
  return (
    <div className="mb-1 flex items-center">
      <span className="shrink-0 pr-2 text-right text-note whitespace-nowrap" style={{ width: GUTTER_LEFT }}>
        {name}
      </span>
      <div className="min-w-0 flex-1" style={{ paddingRight: GUTTER_RIGHT }}>
        <Bands
          bands={bands.map((band) => ({
            kind: band.kind,
            from: band.from_s,
            to: band.to_s,
            words: `${band.kind || "set aside"}, ${band.from_s} to ${band.to_s} s`,
          }))}
          from={range.from}
          to={range.to}
          label={`What limits ${cell.label}, pass ${cell.number}: ${words.slice(0, 12).join("; ")}`}
        />
      </div>
      <span className="hidden w-44 shrink-0 pl-2 text-note text-quiet md:block">
        {here ? bandWords(here.kind) || here.kind : dropWords(cell)}
      </span>
    </div>
  );
}

function dropWords(cell: TracedCell): string {
  const { first_drop_s, drop_cause } = cell.trace;
  if (first_drop_s === null || !drop_cause || drop_cause === "unknown") return "";
  return `drops at ${first_drop_s + cell.shift} s: ${drop_cause}`;
}
