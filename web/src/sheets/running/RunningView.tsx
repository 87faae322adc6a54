import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { withdraw } from "../../api/acts";
import type { LiveShape } from "../../api/client";
import { liveQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { Lane } from "../../marks/Lane";
import { clock, duration, figure, signed, withUnit } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";
import { SILENT_S } from "../matrix/ProgressCellView";
import { SearchView } from "../matrix/SearchView";
import { MarkKeys } from "./MarkKeys";
import { useMay } from "../../api/session";

interface Props {
  entry: number;
  large?: boolean;
}

const WINDOW_S = 180;

const UNITS: Record<string, string> = {
  "frame rate": "fps",
  temperature: "°C",
  power: "W",
  clock: "MHz",
  "processor use": "%",
  "busiest core": "%",
  "memory used": "GB",
  "graphics use": "%",
  "swap used": "GB",
};

/** A pass while it runs: the last minutes, time left, what to mark, and a way to stop it. */
export function RunningView({ entry, large = false }: Props) {
  const may = useMay();
  const live = useQuery(liveQuery(entry));
  const run = useAct();
  const heard = useHeard(live.data);
  if (live.isPending) return <Loading what="Looking at the running pass" />;
  if (live.isError) return <Failed error={live.error} again={() => void live.refetch()} />;
  const data = live.data;
  if (data.state !== "running") {
    const words: Record<string, string> = {
      done: "This pass is over and in the matrix.",
      owed: "This pass is owed; it has not begun.",
    };
    return (
      <p className="font-serif text-lead">
        {words[data.state] ?? "This pass was taken off the docket."}{" "}
        <Link
          className="underline"
          to={`/reviews/${data.review}/matrix?lens=progress&cells=${data.test}.${data.metric}.${data.column}`}
        >
          Open its cell
        </Link>
      </p>
    );
  }
  const left = data.progress.left_s;
  const elapsed = data.progress.elapsed_s;
  const silent = heard !== null && heard > SILENT_S;
  const stop = () =>
    void run(() => withdraw(entry), {
      said: "The pass is being stopped; what was recorded is kept.",
      made: "docket",
    });
  return (
    <section aria-label="Running pass">
      <div className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-1">
        <strong className="text-lead">
          {typeof data.progress.phase === "string" ? data.progress.phase : "starting"}
        </strong>
        {typeof elapsed === "number" && <span>{clock(elapsed)} so far</span>}
        {typeof left === "number" && !silent && <span>{clock(left)} left</span>}
        {silent && (
          <span role="status" className="text-mark">
            last heard {duration(heard)} ago; what it records is kept on the machine until it is back
          </span>
        )}
        {data.stop_wanted && <span className="text-mark">stopping</span>}
        {may("stop_passes") && !data.stop_wanted && !data.by_hand && (
          <Button className={large ? "ml-auto py-2" : "ml-auto"} onClick={stop}>
            Stop it
          </Button>
        )}
      </div>
      {data.kind === "load_search" && <SearchView of={{ entry }} />}
      {data.kind === "soak" && <AgainstBurst live={data} />}
      {!data.by_hand && <Lanes live={data} />}
      {may("record") && <MarkKeys entry={entry} large={large} />}
    </section>
  );
}

const STRETCH_S = 20;

/** Of a soak, what it holds now against its best stretch so far. */
function AgainstBurst({ live }: { live: LiveShape }) {
  const rates = live.points.flatMap((point) => {
    const rate = point.readings["frame rate"];
    return typeof rate === "number" ? [{ at: point.elapsed_s, rate }] : [];
  });
  const last = rates[rates.length - 1];
  if (!last) return null;
  const meanFrom = (from: number) => {
    const part = rates.filter((one) => one.at >= from && one.at < from + STRETCH_S);
    return part.length > 2 ? part.reduce((sum, one) => sum + one.rate, 0) / part.length : null;
  };
  const stretches: number[] = [];
  for (let from = rates[0]?.at ?? 0; from + STRETCH_S <= last.at; from += STRETCH_S) {
    const mean = meanFrom(from);
    if (mean !== null) stretches.push(mean);
  }
  const now = meanFrom(last.at - STRETCH_S + 1e-6);
  if (now === null || stretches.length < 2) return null;
  const best = Math.max(...stretches);
  return (
    <p className="mb-2 font-serif text-lead">
      Holds {figure(now)} fps now, {signed(100 * (now / best - 1))} % against its best {STRETCH_S} seconds (
      {figure(best)} fps).
    </p>
  );
}

function Lanes({ live }: { live: LiveShape }) {
  const last = live.points[live.points.length - 1];
  if (!last) return <p className="text-note text-quiet">Nothing was told of it yet.</p>;
  const names = Object.keys(UNITS).filter((name) =>
    live.points.some((point) => typeof point.readings[name] === "number"),
  );
  const to = last.elapsed_s;
  const from = Math.max(0, to - WINDOW_S, live.points[0]?.elapsed_s ?? 0);
  return (
    <div className="border-t border-line">
      {names.map((name) => {
        const value = last.readings[name];
        const unit = UNITS[name] ?? "";
        const limit = name === "temperature" ? live.limit_c : null;
        const words =
          typeof value === "number" ? withUnit(value, unit, value >= 1000 ? 4 : 3) : "not readable";
        return (
          <Lane
            key={name}
            name={name}
            unit={unit}
            from={from}
            to={to}
            limit={limit}
            words={limit !== null && limit !== undefined ? `${words} of ${figure(limit)}` : words}
            points={live.points.flatMap((point) => {
              const one = point.readings[name];
              return typeof one === "number" ? [{ at: point.elapsed_s, value: one }] : [];
            })}
          />
        );
      })}
    </div>
  );
}

/** Seconds since the bench last told of the pass; null before its first word. */
function useHeard(live: LiveShape | undefined): number | null {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 1000);
    return () => window.clearInterval(timer);
  }, []);
  if (!live?.told_at) return null;
  return Math.max(0, (now - Date.parse(live.told_at)) / 1000);
}
