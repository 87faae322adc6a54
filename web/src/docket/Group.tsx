import { Link } from "react-router";
import { withdraw } from "../api/acts";
import type { Shapes } from "../api/client";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { Seal } from "../marks/Seal";
import { count, withUnit } from "../marks/words";
import { runningWords } from "../sheets/matrix/ProgressCellView";
import { useMay } from "../api/session";

interface Props {
  group: Shapes["GroupShape"];
  review?: number;
  large: boolean;
}

/** Passes of one cell that are run together, running or owed. */
export function Group({ group, review, large }: Props) {
  const may = useMay();
  const run = useAct();
  const running = group.entries.find((entry) => entry.state === "running");
  const owed = group.entries.filter((entry) => entry.state === "owed");
  const stop = (entries: Shapes["EntryShape"][]) =>
    void run(
      async () => {
        for (const entry of entries) await withdraw(entry.id);
      },
      {
        said: entries[0]?.state === "running" ? "The pass is being stopped." : "Taken off the docket.",
        made: "docket",
      },
    );
  return (
    <div className={large ? "py-1.5" : "py-1"}>
      <div>
        <strong>{group.test_name}</strong> <span className="text-quiet">{group.detail}</span>
        {running && review === group.review && (
          <>
            {" "}
            on <Seal position={group.position} label={group.label} size={16} /> {group.label}
          </>
        )}
      </div>
      {group.review !== review && (
        <Link
          to={`/reviews/${group.review}/matrix?lens=progress`}
          className="block text-small text-quiet underline"
        >
          {group.question}
        </Link>
      )}
      {running && (
        <div className="mt-1 border-l-2 border-better pl-2">
          pass {running.number}: {runningWords(running, running.stop_wanted)}
          {running.by_hand && <span className="text-quiet"> by hand, {running.by_hand}</span>}
          <Readings progress={running.progress} />
          <Link
            to={running.by_hand && !group.search ? `/hand/${running.id}` : `/running/${running.id}`}
            className="mr-3 text-note underline decoration-line"
          >
            {running.by_hand && !group.search ? "Go on with it" : "Watch it"}
          </Link>
          {may("stop_passes") && !running.stop_wanted && !running.by_hand && (
            <Button kind={large ? "plain" : "link"} onClick={() => stop([running])}>
              Stop it
            </Button>
          )}
        </div>
      )}
      {group.waits && <p className="text-small text-mark">{group.waits}</p>}
      {owed.length > 0 && (
        <div className="mt-0.5 flex justify-between gap-3 text-quiet">
          <span>{count(owed.length, "pass")} owed</span>
          {may("record") && !group.search && owed[0] && (
            <Link
              to={`/hand/${owed[0].id}`}
              className={`ml-auto underline ${large ? "py-1 font-semibold text-ink" : ""}`}
            >
              run by hand
            </Link>
          )}
          {may("stop_passes") && (
            <button type="button" className="underline" onClick={() => stop(owed)}>
              take off
            </button>
          )}
        </div>
      )}
    </div>
  );
}

const UNITS: Record<string, string> = {
  "frame rate": "fps",
  temperature: "°C",
  power: "W",
  clock: "MHz",
  "processor use": "%",
  "busiest core": "%",
  "memory used": "GiB",
};

/** The sensors of a running pass, as last told. */
function Readings({ progress }: { progress: Record<string, unknown> }) {
  const readings = (progress.readings ?? {}) as Record<string, number | null>;
  const told = Object.entries(readings).filter(([name, value]) => name in UNITS && value !== null);
  if (!told.length) return null;
  return (
    <dl className="my-1 grid grid-cols-2 gap-x-3 text-small">
      {told.map(([name, value]) => (
        <div key={name} className="flex justify-between">
          <dt className="text-quiet">{name}</dt>
          <dd>{withUnit(value ?? 0, UNITS[name] ?? "")}</dd>
        </div>
      ))}
    </dl>
  );
}
