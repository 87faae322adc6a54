import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../../api/acts";
import type { PassShape, ToldShape } from "../../../api/client";
import { useMay } from "../../../api/session";
import { refresh } from "../../../api/stale";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { VersionedForm } from "../../../design/VersionedForm";
import { When } from "../../../design/When";

type Told = ToldShape & { id: string };

const WORDS: Partial<Record<keyof Told, string>> = {
  note: "Note",
  action: "What was done about it",
  fallback: "What ran instead",
  ran_by: "Run by",
  helped_by: "With",
};

/** Whose hands a pass was in, the steps that were ticked, and what more can be told of it. */
export function Hands({ pass }: { pass: PassShape }) {
  const may = useMay();
  const run = useAct();
  const [telling, setTelling] = useState(false);
  const first = pass.run_group === "first";
  const path = `/api/passes/${pass.id}/first-run`;
  const move = (into: boolean) => act(into ? "PUT" : "DELETE", path);
  return (
    <div className="text-small">
      <p className="text-quiet">{handWords(pass)}</p>
      {pass.steps.length > 0 && (
        <details>
          <summary className="text-quiet">
            {pass.steps.filter((step) => step.at).length} of {pass.steps.length} steps ticked
          </summary>
          <ul>
            {pass.steps.map((step, at) => (
              <li key={at}>
                <span aria-hidden="true">{step.at ? "✓" : "·"}</span> {step.words}
                <span className={step.fits ? "text-quiet" : "text-mark"}>
                  {step.observed !== null && ` ${step.observed} ${step.unit}`}
                  {!step.fits && " ⚑ over its limit"}
                </span>
                {step.at && (
                  <span className="text-quiet">
                    {" "}
                    {step.by}, <When at={step.at} />
                  </span>
                )}
                {!step.at && <span className="sr-only"> not ticked</span>}
              </li>
            ))}
          </ul>
        </details>
      )}
      {may("record") && (
        <span className="flex flex-wrap gap-x-3">
          <Button kind="link" className="text-small" onClick={() => setTelling(true)}>
            {pass.outcome === "completed" ? "tell who ran it" : "tell what came of it"}
          </Button>
          {pass.outcome === "completed" && may("set_aside") && !pass.recorder && (
            <Button
              kind="link"
              className="text-small"
              onClick={() =>
                void run(() => move(!first), {
                  said: first
                    ? `Pass ${pass.number} counts among the plain passes.`
                    : `Pass ${pass.number} is a first run now, in a row of its own.`,
                  undo: () => move(first),
                  made: "pass",
                })
              }
            >
              {first ? "no first run" : "it was a first run"}
            </Button>
          )}
        </span>
      )}
      {telling && <Telling pass={pass} onClose={() => setTelling(false)} />}
    </div>
  );
}

/** "run by Ines Barrow with Tomas Quill; typed by Mirela Adeyemi" */
export function handWords(pass: Pick<PassShape, "ran_by" | "helped_by" | "brought_by" | "origin">): string {
  const ran = pass.ran_by || pass.brought_by;
  const words = [ran && `run by ${ran}`, pass.helped_by && `with ${pass.helped_by}`]
    .filter(Boolean)
    .join(" ");
  const other = pass.ran_by && pass.ran_by !== pass.brought_by;
  return other && pass.brought_by
    ? `${words}; ${pass.origin === "typed" ? "typed" : "brought"} by ${pass.brought_by}`
    : words;
}

function Telling({ pass, onClose }: { pass: PassShape; onClose: () => void }) {
  const client = useQueryClient();
  const failed = pass.outcome !== "completed";
  const [began] = useState<Told>({
    id: pass.id,
    note: pass.note,
    action: pass.action,
    fallback: pass.fallback,
    ran_by: pass.ran_by,
    helped_by: pass.helped_by,
    tag: pass.told_tag,
  });
  return (
    <Dialog open onClose={onClose} title={`Pass ${pass.number}: ${pass.outcome_words}`}>
      <VersionedForm
        label="What is told of this pass"
        began={began}
        version={(told) => told.tag}
        store={async (tag, changes) => ({
          ...(await act<Told>("PATCH", `/api/passes/${pass.id}/telling`, changes, tag)),
          id: pass.id,
        })}
        changesOf={(form) => Object.fromEntries(form) as Partial<Told>}
        words={WORDS}
        onSaved={() => refresh(client, "pass")}
        onClose={onClose}
      >
        <p className="mb-3 text-note text-quiet">What stands there now is kept in the remarks.</p>
        <Field label={failed ? "Why it ended so" : "Note"}>
          <input name="note" defaultValue={pass.note} maxLength={2000} />
        </Field>
        {failed && (
          <>
            <Field label="What was done about it">
              <input name="action" defaultValue={pass.action} maxLength={300} />
            </Field>
            <Field label="What ran instead" hint="A lower preset, another scene.">
              <input name="fallback" defaultValue={pass.fallback} maxLength={300} />
            </Field>
          </>
        )}
        <Field label="Run by" hint={`Left empty, it is ${pass.brought_by}.`}>
          <input name="ran_by" defaultValue={pass.ran_by} maxLength={120} />
        </Field>
        <Field label="With" hint="Who helped, or ran it elsewhere.">
          <input name="helped_by" defaultValue={pass.helped_by} maxLength={200} />
        </Field>
      </VersionedForm>
    </Dialog>
  );
}
