import { useEffect, useState } from "react";
import type { TraceShape } from "../../../api/client";
import type { Stretch } from "../../../api/queries";
import type { TracedCell } from "../../../marks/overlay";

const SETTLE_MS = 140;

/** A value once it has stood still for a moment: while somebody drags or turns the wheel nothing is asked for. */
export function useSettled(stretch: Stretch | null): Stretch | null {
  const [settled, setSettled] = useState(stretch);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(stretch), SETTLE_MS);
    return () => window.clearTimeout(timer);
  }, [stretch]);
  return settled;
}

/** The traces as they came, and the last one of a pass while its next stretch is read: nothing flickers. */
export function useLast(ids: string[], found: (TraceShape | undefined)[]): (TraceShape | undefined)[] {
  const [held, setHeld] = useState<Record<string, TraceShape>>({});
  const fresh = ids.flatMap((id, at) => {
    const trace = found[at];
    return trace && trace !== held[id] ? [[id, trace] as const] : [];
  });
  if (fresh.length) setHeld({ ...held, ...Object.fromEntries(fresh) });
  return ids.map((id, at) => found[at] ?? held[id]);
}

/** The same array while its traces, shifts and notes are the same, so that plots are not made anew. */
export function useSteady(cells: TracedCell[]): TracedCell[] {
  const parts = cells.flatMap((cell) => [cell.trace, cell.shift, cell.marks, cell.aside?.length, cell.layer]);
  // The list of parts has one length only as long as the same passes are chosen.
  const signature = cells.map((cell) => cell.key).join();
  const [held, setHeld] = useState({ signature, parts, cells });
  const same =
    held.signature === signature &&
    held.parts.length === parts.length &&
    held.parts.every((part, at) => part === parts[at]);
  if (!same) setHeld({ signature, parts, cells });
  return same ? held.cells : cells;
}
