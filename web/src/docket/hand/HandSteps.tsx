import { useState } from "react";
import { act } from "../../api/acts";
import type { HandRun } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { duration } from "../../marks/words";

type Step = HandRun["steps"][number];

const NAMES: Record<string, string> = { check: "look at", setting: "set", other: "do" };

/** What to do for this pass, in order; each is ticked, and what a look asks for is typed beside it. */
export function HandSteps({ run: sheet, readOnly }: { run: HandRun; readOnly: boolean }) {
  const run = useAct();
  const path = `/api/docket/${sheet.entry}/hand/ticks`;
  const next = sheet.steps.find((step) => !step.tick);
  const tick = (step: Step, observed = "") =>
    run(() => act("PUT", path, { key: step.key, observed }), { made: "hand" });
  const untick = (step: Step) =>
    run(() => act("DELETE", `${path}/${encodeURIComponent(step.key)}`), { made: "hand" });
  if (sheet.steps.length === 0) {
    return (
      <p className="my-2 text-note text-quiet">Its workload tells no steps; they are written in Workloads.</p>
    );
  }
  return (
    <ol aria-label="Steps" className="border-b border-line">
      {sheet.steps.map((step) => (
        <li
          key={step.key}
          className={`border-t border-line px-1 py-2 ${step === next && !readOnly ? "bg-band" : ""}`}
        >
          <div className="flex items-start gap-2.5">
            {step.reading && !step.tick ? (
              <span aria-hidden="true" className="mt-0.5 size-6 border border-dashed border-ink" />
            ) : (
              <input
                id={`step-${step.key}`}
                type="checkbox"
                disabled={readOnly}
                checked={step.tick !== null}
                onChange={() => void (step.tick ? untick(step) : tick(step))}
                className="mt-0.5 size-6"
              />
            )}
            <label htmlFor={`step-${step.key}`} className={step.tick ? "text-quiet" : ""}>
              <span className="mr-2 text-small text-quiet">{NAMES[step.kind] ?? step.kind}</span>
              {step.words}
              {step.seconds !== null && <strong className="ml-1.5">{duration(step.seconds)}</strong>}
            </label>
            {step.tick && step.tick.observed !== null && (
              <span className={`ml-auto whitespace-nowrap ${step.tick.fits ? "" : "text-mark"}`}>
                {!step.tick.fits && "⚑ over the limit: "}
                {step.tick.observed} {step.unit}
              </span>
            )}
          </div>
          {step.reading && !step.tick && !readOnly && (
            <Reading step={step} onNote={(value) => void tick(step, value)} />
          )}
        </li>
      ))}
    </ol>
  );
}

function Reading({ step, onNote }: { step: Step; onNote: (value: string) => void }) {
  const [value, setValue] = useState("");
  return (
    <form
      className="mt-1 flex items-center gap-2 pl-8"
      onSubmit={(event) => {
        event.preventDefault();
        onNote(value);
      }}
    >
      <label className="flex items-center gap-1.5">
        <span className="text-quiet">{step.reading}</span>
        <input
          value={value}
          required
          inputMode="decimal"
          onChange={(event) => setValue(event.target.value)}
          className="w-20 border border-ink bg-sheet px-1.5 py-1.5 text-body"
        />
        <span>{step.unit}</span>
      </label>
      <Button type="submit" className="py-1.5">
        Note
      </Button>
      {step.at_most !== null && (
        <span className="text-quiet">
          at most {step.at_most} {step.unit}
        </span>
      )}
    </form>
  );
}
