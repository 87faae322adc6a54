import { useEffect, useState } from "react";
import { act } from "../../api/acts";
import type { HandRun } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { useKeys } from "../../shell/keys";

interface Props {
  run: HandRun;
  /** When the sheet was read, by this machine's clock. */
  readAt: number;
  readOnly: boolean;
}

/** The clock of a pass: Space or a thumb starts it and ends it. The server keeps it, so that leaving loses nothing. */
export function HandClock({ run: sheet, readAt, readOnly }: Props) {
  const run = useAct();
  const running = sheet.started_at !== null && sheet.stopped_at === null;
  const seconds = useClock(sheet, readAt, running);
  const press = (on: boolean) =>
    void run(() => act("PUT", `/api/docket/${sheet.entry}/hand/clock`, { running: on }), { made: "hand" });
  useKeys({ " ": () => !readOnly && sheet.stopped_at === null && press(!running) });
  return (
    <section aria-label="Clock" className="my-3 border-y border-line py-3 text-center">
      <p role="timer" className="text-[44px] leading-none tabular-nums">
        {clockWords(seconds)}
      </p>
      {!readOnly && (
        <div className="mt-3 flex gap-3">
          <Button
            kind={sheet.stopped_at === null ? "strong" : "plain"}
            className="flex-1 py-4 text-lead"
            onClick={() => press(!running)}
          >
            {running ? "End" : sheet.stopped_at === null ? "Start" : "Start it anew"}
            {sheet.stopped_at === null && <kbd className="ml-2 font-normal">Space</kbd>}
          </Button>
        </div>
      )}
    </section>
  );
}

/** Seconds on the clock; a running one is read against the server's clock as it was when the page was told. */
function useClock(sheet: HandRun, readAt: number, running: boolean): number {
  const [now, setNow] = useState(() => Date.now());
  // How far this machine's clock is ahead of the server's.
  const ahead = readAt - Date.parse(sheet.now);
  useEffect(() => {
    if (!running) return;
    const timer = window.setInterval(() => setNow(Date.now()), 100);
    return () => window.clearInterval(timer);
  }, [running]);
  if (sheet.started_at === null) return 0;
  const end = sheet.stopped_at === null ? now - ahead : Date.parse(sheet.stopped_at);
  return Math.max(0, (end - Date.parse(sheet.started_at)) / 1000);
}

/** The seconds that a stopped clock shows; null before it was stopped. */
export function clockedSeconds(sheet: HandRun): number | null {
  if (sheet.started_at === null || sheet.stopped_at === null) return null;
  return (Date.parse(sheet.stopped_at) - Date.parse(sheet.started_at)) / 1000;
}

/** A time as a clock tells it: 1:07.4. */
export function clockWords(seconds: number): string {
  const tenths = Math.floor(seconds * 10) / 10;
  return `${Math.floor(tenths / 60)}:${(tenths % 60).toFixed(1).padStart(4, "0")}`;
}
