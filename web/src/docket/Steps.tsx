import { useState } from "react";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { quantity } from "../marks/words";

type Step = Shapes["ChangeStepShape"];

interface Props {
  changeover: number;
  steps: Step[];
  may: boolean;
  large: boolean;
}

const NAMES: Record<string, string> = {
  safety: "safety",
  take_out: "take out",
  put_in: "put in",
  start_up: "start up",
  restore: "put back",
  firmware: "firmware",
  system: "system",
  check: "look at",
};

/** The steps of a change, to be ticked one by one; what is read off the machine is typed beside its step. */
export function Steps({ changeover, steps, may, large }: Props) {
  const run = useAct();
  const path = `/api/changeovers/${changeover}/ticks`;
  const tick = (step: Step, observed: string | null) =>
    run(() => act("PUT", path, { key: step.key, observed }), { made: "docket_of" });
  const untick = (step: Step) =>
    run(() => act("DELETE", `${path}/${encodeURIComponent(step.key)}`), { made: "docket_of" });
  const next = steps.find((step) => !step.tick?.agrees);
  return (
    <ol className={large ? "text-body" : "text-small"}>
      {steps.map((step) => (
        <li
          key={step.key}
          className={`border-t border-line ${large ? "py-2.5" : "py-1"} ${step === next ? "bg-band" : ""}`}
        >
          <label className="flex items-start gap-2.5">
            <input
              type="checkbox"
              disabled={!may}
              checked={Boolean(step.tick?.agrees)}
              onChange={() => void (step.tick?.agrees ? untick(step) : tick(step, null))}
              className={large ? "mt-0.5 size-6" : "mt-0.5"}
            />
            <span className={step.tick?.agrees ? "text-quiet line-through" : ""}>
              {step.words} <span className="sr-only">({NAMES[step.kind]})</span>
            </span>
          </label>
          {(step.asks || step.reading) && may && !step.tick?.agrees && (
            <Reading step={step} large={large} onNote={(value) => void tick(step, value)} />
          )}
          {step.tick && (
            <p className={`pl-6 ${step.tick.agrees ? "text-quiet" : "text-mark"}`}>
              {!step.tick.agrees && "⚑ "}
              {step.tick.observed !== null && `read ${String(step.tick.observed)} ${step.unit}; `}
              {!step.tick.agrees && `${String(step.expected)} ${step.unit} was to be seen; `}
              {step.tick.released && `gone on: ${step.tick.released}; `}
              {step.tick.by}, <When at={step.tick.at} />
            </p>
          )}
        </li>
      ))}
    </ol>
  );
}

interface ReadingProps {
  step: Step;
  large: boolean;
  onNote: (value: string) => void;
}

function Reading({ step, large, onNote }: ReadingProps) {
  const [value, setValue] = useState("");
  const name = step.reading || "read off the machine";
  return (
    <form
      className="mt-1 flex items-center gap-2 pl-6"
      onSubmit={(event) => {
        event.preventDefault();
        if (value.trim()) onNote(value.trim());
      }}
    >
      <label className="flex min-w-0 items-center gap-1.5">
        <span className="text-quiet">{name}</span>
        <input
          value={value}
          onChange={(event) => setValue(event.target.value)}
          inputMode={typeof step.expected === "string" ? "text" : "decimal"}
          className={`w-20 border border-ink bg-sheet px-1.5 text-body ${large ? "py-2" : ""}`}
        />
        <span>{step.unit}</span>
      </label>
      <Button type="submit" className={large ? "py-2" : "py-0"} disabled={!value.trim()}>
        Note
      </Button>
      {step.told !== null && <span className="text-quiet">the bench reads {quantity(step.told)}</span>}
    </form>
  );
}
