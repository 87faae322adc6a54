import type { ProgressCell } from "../../api/client";
import { Pips, type PipState } from "../../marks/Pips";
import { duration } from "../../marks/words";

const MOST_PIPS = 12;

/** The passes of a cell as pips, and what is to be said about them. */
export function ProgressCellView({ cell }: { cell?: ProgressCell }) {
  if (!cell) return <span className="text-note text-quiet">not asked for</span>;
  const pips = cell.pips.slice(-MOST_PIPS);
  const hidden = cell.pips.length - pips.length;
  const failed = cell.pips.filter((pip) => pip.state === "failed");
  const aside = cell.pips.filter((pip) => pip.state === "set_aside").length;
  const running = cell.running[0];
  const notes = [
    running && runningWords(running.progress, running.stop_wanted),
    ...cell.notes,
    failed.length > 0 && `${failed[failed.length - 1]?.words}`,
    aside > 0 && `${aside} set aside`,
  ].filter(Boolean);
  return (
    <div>
      <div className="flex items-center gap-0.5">
        {hidden > 0 && <span className="text-small text-quiet">{hidden} + </span>}
        <Pips pips={drawn(cell, pips)} />
      </div>
      {notes[0] && (
        <div className="max-w-56 truncate text-small text-quiet" title={notes.join("; ")}>
          {notes[0]}
          {notes.length > 1 && ` · ${notes.length - 1} more`}
        </div>
      )}
    </div>
  );
}

function drawn(cell: ProgressCell, pips: ProgressCell["pips"]) {
  return [
    ...pips.map((pip) => ({
      key: pip.pass_id,
      state: pip.state as PipState,
      words: `pass ${pip.number}: ${pip.words}`,
    })),
    ...cell.running.map((run) => ({
      key: String(run.entry),
      state: "running" as const,
      words: `pass ${run.number}: running`,
    })),
    ...Array.from({ length: Math.min(cell.owed, MOST_PIPS) }, (_, at) => ({
      key: `owed ${at}`,
      state: "owed" as const,
    })),
  ];
}

export function runningWords(progress: Record<string, unknown>, stopping: boolean): string {
  if (stopping) return "stopping";
  const left = progress.left_s;
  const phase = typeof progress.phase === "string" ? progress.phase : "starting";
  return typeof left === "number" ? `${phase} · ${duration(left)} left` : phase;
}
