import type { TraceShape } from "../api/client";

/** A pass laid on the common time axis of several. */
export interface TracedCell {
  /** Tells passes of one configuration apart. */
  key: string;
  position: number;
  label: string;
  number: number;
  /** How many passes of this configuration lie under it already: it sets the dash. */
  layer: number;
  /** Seconds by which its clock is moved. */
  shift: number;
  trace: TraceShape;
  /** Parts of the run that people marked, and ranges that were set aside. */
  marks?: { id: number; label: string; start_s: number; end_s: number | null }[];
  aside?: { start_s: number; end_s: number; reason: string }[];
}

/** The same trace with its clock moved. */
export function moved(trace: TraceShape, shift: number): TraceShape {
  if (!shift) return trace;
  const by = (values: number[]) => values.map((value) => value + shift);
  return {
    ...trace,
    duration_s: trace.duration_s + shift,
    counts_from_s: trace.counts_from_s + shift,
    counts_to_s: trace.counts_to_s + shift,
    t_s: by(trace.t_s),
    hitches_s: by(trace.hitches_s),
    lanes: trace.lanes.map((lane) => ({ ...lane, t_s: by(lane.t_s) })),
    bands: (trace.bands ?? []).map((band) => ({
      ...band,
      from_s: band.from_s + shift,
      to_s: band.to_s + shift,
    })),
  };
}

const DASHES = [[], [5, 3], [2, 2], [8, 3, 2, 3], [1, 3]];

export function dashOf(layer: number): number[] {
  return DASHES[layer % DASHES.length] ?? [];
}

/** The value of a series at a moment: that of the last point not after it. */
export function valueAt(t: number[], values: (number | null)[], at: number): number | null {
  let low = 0;
  let high = t.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((t[middle] ?? 0) <= at) low = middle + 1;
    else high = middle;
  }
  return low === 0 ? null : (values[low - 1] ?? null);
}
