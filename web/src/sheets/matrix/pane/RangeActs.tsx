import { useState, type FormEvent } from "react";
import type { PassShape } from "../../../api/client";
import { act } from "../../../api/acts";
import type { Stretch } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { figure } from "../../../marks/words";
import { useMay } from "../../../api/session";
import { useVocabulary } from "../../../api/vocabulary";

interface Props {
  pass: PassShape;
  stretch: Stretch | null;
  shift: number;
}

const SECONDS = { type: "number", min: 0, step: 0.01, required: true } as const;

/** Setting a part of a pass aside, or giving it a name. The stretch in sight is proposed; its ends can be typed. */
export function RangeActs({ pass, stretch, shift }: Props) {
  const may = useMay();
  const { spans } = useVocabulary();
  const [doing, setDoing] = useState<"aside" | "name" | null>(null);
  const run = useAct();
  if (!may("set_aside")) return null;
  const proposed = stretch && {
    start_s: Math.max(0, hundredths(stretch.from - shift)),
    end_s: Math.min(
      hundredths(stretch.to - shift),
      pass.duration_s === null ? Infinity : hundredths(pass.duration_s),
    ),
  };
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const said = String(form.get("words") ?? "").trim();
    const range = { start_s: Number(form.get("from")), end_s: Number(form.get("to")) };
    const words = `${figure(range.start_s)} to ${figure(range.end_s)} s of pass ${pass.number}`;
    const made =
      doing === "aside"
        ? await run(
            () => act<{ id: number }>("POST", `/api/passes/${pass.id}/ranges`, { ...range, reason: said }),
            {
              said: `${words} is set aside; every figure leaves it out.`,
              undo: ({ id }) => act("DELETE", `/api/ranges/${id}`),
              made: "pass",
            },
          )
        : await run(
            () => act<{ id: number }>("POST", `/api/passes/${pass.id}/marks`, { ...range, label: said }),
            {
              said: `${words} is marked “${said}”.`,
              undo: ({ id }) => act("DELETE", `/api/marks/${id}`),
              made: "pass",
            },
          );
    if (made) setDoing(null);
  };
  return (
    <>
      <Button kind="link" onClick={() => setDoing("aside")}>
        {stretch ? "Set this part aside" : "Set a part aside"}
      </Button>
      <Button kind="link" onClick={() => setDoing("name")}>
        {stretch ? "Name this part" : "Name a part"}
      </Button>
      <Dialog
        open={doing !== null}
        onClose={() => setDoing(null)}
        title={`${doing === "aside" ? "Set aside" : "Name"} a part of pass ${pass.number}`}
      >
        <form onSubmit={(event) => void submit(event)}>
          <p className="mb-3">
            {doing === "aside"
              ? "No figure counts it. It stays on record with your name and reason, and can be taken back."
              : "A named part has its own figures, and a test can count it alone or leave it out."}
          </p>
          <div className="grid grid-cols-2 gap-3">
            <Field label="From, in s">
              <input name="from" {...SECONDS} defaultValue={proposed?.start_s ?? 0} />
            </Field>
            <Field
              label="To, in s"
              hint={pass.duration_s === null ? "" : `the pass is over after ${hundredths(pass.duration_s)} s`}
            >
              <input name="to" {...SECONDS} defaultValue={proposed?.end_s ?? ""} />
            </Field>
          </div>
          <Field label={doing === "aside" ? "Why" : "Name"}>
            <input name="words" required maxLength={60} autoFocus autoComplete="off" list="span-names" />
          </Field>
          {doing === "name" && (
            <datalist id="span-names">
              {spans.map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          )}
          <div className="flex gap-3">
            <Button kind="strong" type="submit">
              {doing === "aside" ? "Set aside" : "Keep the name"}
            </Button>
            <Button onClick={() => setDoing(null)}>Leave it</Button>
          </div>
        </form>
      </Dialog>
    </>
  );
}

function hundredths(seconds: number): number {
  return Math.round(seconds * 100) / 100;
}
