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
    running && runningWords(running, running.stop_wanted),
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

/** A bench tells of its pass several times a second; after so long it may be dead. */
export const SILENT_S = 15;

interface Told {
  progress: Record<string, unknown>;
  told_at?: string | null;
  by_hand?: string;
}

/** How a running pass goes, or since when nothing was heard of it: what is left of it is then not known. */
export function runningWords(told: Told, stopping: boolean): string {
  const silent = told.told_at ? (Date.now() - Date.parse(told.told_at)) / 1000 : 0;
  if (!told.by_hand && silent > SILENT_S) return `last heard ${duration(silent)} ago`;
  if (stopping) return "stopping";
  const { progress } = told;
  const left = progress.left_s;
  const phase = typeof progress.phase === "string" ? progress.phase : "starting";
  return typeof left === "number" ? `${phase} · ${duration(left)} left` : phase;
}
