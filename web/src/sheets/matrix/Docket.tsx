import { useQuery, useQueryClient } from "@tanstack/react-query";
import { withdraw } from "../../api/acts";
import type { ReviewShape, Shapes } from "../../api/client";
import { docketQuery, keys, matrixQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useNotices } from "../../design/Notices";
import { When } from "../../design/When";
import { Seal } from "../../marks/Seal";
import { count, figure } from "../../marks/words";
import { columnOf, testOf } from "../Matrix";
import { useMatrixPlace } from "./place";
import { runningWords } from "./ProgressCellView";

interface Props {
  review: ReviewShape;
  may: (act: string) => boolean;
  onAsk?: () => void;
}

/** The order of work: what runs now, what comes next, and what changes in between. */
export function Docket({ review, may, onAsk }: Props) {
  const docket = useQuery(docketQuery(review.id));
  return (
    <aside className="w-80 shrink-0 border-l-2 border-ink pl-4" aria-label="Docket">
      <h2 className="font-serif text-[18px] font-semibold">Docket</h2>
      {docket.isError && <p className="text-note text-mark">{docket.error.message}</p>}
      {docket.data?.length === 0 && (
        <div className="mt-1 text-note">
          <p className="mb-2 text-quiet">No pass is owed.</p>
          {onAsk && <Button onClick={onAsk}>Ask for passes</Button>}
        </div>
      )}
      {docket.data?.map((system) => (
        <section key={system.system} className="mb-4">
          <p className="mb-1 text-note text-quiet">
            {system.system}:{" "}
            {system.has_bench ? (
              system.heard_at ? (
                <>
                  bench heard <When at={system.heard_at} />
                </>
              ) : (
                "its bench was not heard yet"
              )
            ) : (
              "no bench is connected, so nothing runs"
            )}
          </p>
          <ol className="border-t border-line">
            {system.steps.map((step, at) => (
              <Step key={`${at}-${step.kind}`} step={step} review={review} may={may} />
            ))}
          </ol>
        </section>
      ))}
    </aside>
  );
}

function Step({ step, review, may }: { step: Shapes["StepShape"]; review: ReviewShape; may: Props["may"] }) {
  const client = useQueryClient();
  const { tell, warn } = useNotices();
  const { baseline } = useMatrixPlace();
  const matrix = useQuery(matrixQuery(review.id, baseline));
  const column = columnOf(review, step.column);
  if (!column) return null;
  const seal = <Seal position={column.position} label={column.label} size={16} />;
  if (step.kind === "change") {
    return (
      <li className="border-b border-line py-2 text-note">
        <span aria-hidden="true">⟳ </span>
        Change to {seal} <strong>{column.label}</strong>
        <ul className="mt-0.5 pl-5 text-small text-quiet">
          {step.change.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </li>
    );
  }
  const test = testOf(review, step.test ?? 0);
  const running = step.entries.find((entry) => entry.state === "running");
  const owed = step.entries.filter((entry) => entry.state === "owed");
  const live = matrix.data?.progress
    .find((row) => row.test === step.test)
    ?.cells[String(step.column)]?.running.find((run) => run.entry === running?.id);
  const stop = async (entries: Shapes["EntryShape"][]) => {
    try {
      for (const entry of entries) await withdraw(entry.id);
      tell(
        entries.some((entry) => entry.state === "running")
          ? "The pass is being stopped."
          : "Taken off the docket.",
      );
      void client.invalidateQueries({ queryKey: keys.docket(review.id) });
    } catch (error) {
      warn((error as Error).message);
    }
  };
  return (
    <li className="border-b border-line py-2 text-note">
      <div>
        <strong>{test?.name}</strong> on {seal} {column.label}
      </div>
      <div className="text-small text-quiet">{test?.detail}</div>
      {running && (
        <div className="mt-1 border-l-2 border-better pl-2">
          pass {running.number}: {runningWords(live?.progress ?? running.progress, running.stop_wanted)}
          <Readings progress={live?.progress ?? running.progress} />
          {may("stop_passes") && !running.stop_wanted && (
            <Button kind="link" onClick={() => void stop([running])}>
              Stop it
            </Button>
          )}
        </div>
      )}
      {owed.length > 0 && (
        <div className="mt-0.5 flex justify-between text-small text-quiet">
          <span>{count(owed.length, "pass")} owed</span>
          {may("stop_passes") && (
            <button type="button" className="underline" onClick={() => void stop(owed)}>
              take off
            </button>
          )}
        </div>
      )}
    </li>
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
          <dd>
            {figure(value ?? 0)} {UNITS[name]}
          </dd>
        </div>
      ))}
    </dl>
  );
}
