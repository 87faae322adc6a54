import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Stretch } from "../../api/queries";
import type { TracedCell } from "../overlay";
import { GUTTER_LEFT, GUTTER_RIGHT } from "../plot";
import { figure } from "../words";
import { FRAMES_PX } from "./Frames";

export interface Cuts {
  skip_s: number;
  end_cut_s: number;
}

interface Props {
  cells: TracedCell[];
  range: Stretch;
  onCuts?: (cuts: Cuts) => void;
}

const STEP_S = 0.5;

/** The warm-up and the end cut as two bars that can be dragged, or moved by the arrow keys. */
export function CutHandles({ cells, range, onCuts }: Props) {
  const first = cells[0];
  const [dragged, setDragged] = useState<{ which: "skip" | "end"; at: number } | null>(null);
  if (!first || !onCuts || !first.trace.t_s.length) return null;
  const begin = first.trace.t_s[0] ?? 0;
  const starts = first.shift;
  const end = Math.max(begin, first.trace.duration_s);
  const from = dragged?.which === "skip" ? dragged.at : Math.max(first.trace.counts_from_s, starts);
  const to = dragged?.which === "end" ? dragged.at : Math.min(first.trace.counts_to_s, end);
  const tell = (which: "skip" | "end", at: number) => {
    const round = (value: number) => Math.max(0, Math.round(value * 10) / 10);
    onCuts({
      skip_s: round((which === "skip" ? at : from) - starts),
      end_cut_s: round(end - (which === "end" ? at : to)),
    });
  };
  const limit = (which: "skip" | "end", at: number) =>
    which === "skip" ? Math.min(Math.max(starts, at), to - 1) : Math.max(Math.min(end, at), from + 1);
  const atPointer = (event: PointerEvent<HTMLElement>): number => {
    const box = event.currentTarget.parentElement?.getBoundingClientRect();
    if (!box) return 0;
    const share = (event.clientX - box.left - GUTTER_LEFT) / (box.width - GUTTER_LEFT - GUTTER_RIGHT);
    return range.from + share * (range.to - range.from);
  };
  const handle = (which: "skip" | "end", at: number, label: string, words: string) => {
    const share = (at - range.from) / Math.max(1e-9, range.to - range.from);
    if (share < -0.001 || share > 1.001) return null;
    const onKey = (event: KeyboardEvent) => {
      const by = { ArrowLeft: -STEP_S, ArrowRight: STEP_S }[event.key];
      if (by === undefined) return;
      event.preventDefault();
      tell(which, limit(which, at + by));
    };
    return (
      <div
        role="slider"
        tabIndex={0}
        aria-label={label}
        aria-valuemin={0}
        aria-valuemax={Math.round(end)}
        aria-valuenow={Math.round(at * 10) / 10}
        aria-valuetext={words}
        title={`${label}: ${words}. Drag, or use the arrow keys; it holds for every pass of the test.`}
        className="absolute top-0 z-10 w-3 -translate-x-1/2 cursor-ew-resize touch-none"
        style={{
          height: FRAMES_PX,
          left: `calc(${GUTTER_LEFT}px + (100% - ${GUTTER_LEFT + GUTTER_RIGHT}px) * ${share})`,
        }}
        onKeyDown={onKey}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDragged({ which, at });
        }}
        onPointerMove={(event) => dragged && setDragged({ which, at: limit(which, atPointer(event)) })}
        onPointerUp={() => {
          const before = which === "skip" ? first.trace.counts_from_s : first.trace.counts_to_s;
          if (dragged && Math.abs(dragged.at - before) > 0.04) tell(which, dragged.at);
          setDragged(null);
        }}
      >
        <span className="mx-auto block h-full w-px bg-quiet" />
        <span
          className={`absolute top-0 bg-quiet ${which === "skip" ? "left-1.5" : "right-1.5"} h-2.5 w-1.5`}
          aria-hidden="true"
        />
      </div>
    );
  };
  return (
    <>
      {handle("skip", from, "Warm-up left out", `${figure(Math.max(0, from - starts))} s`)}
      {handle("end", to, "End cut off", `${figure(Math.max(0, end - to))} s`)}
    </>
  );
}
