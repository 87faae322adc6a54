import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Shapes } from "../../api/client";
import { refresh } from "../../api/stale";
import { CreateDialog } from "../../design/CreateDialog";
import { Field } from "../../design/Field";

interface Props {
  label: string;
  onMade: (made: Shapes["KnownSetting"]) => void;
  onClose: () => void;
}

const KINDS = [
  ["choice", "one of several words"],
  ["yes_no", "yes or no"],
  ["number", "a number"],
  ["whole", "a whole number"],
  ["text", "words"],
] as const;
const TOUCHES = ["system", "processor", "graphics", "memory", "storage", "board", "cooling", "display"];
const MADE_IN = [
  ["system", "in the running system"],
  ["restart", "in the system; it holds after a restart"],
  ["firmware", "in the firmware"],
  ["run", "for each run"],
] as const;
const UNITS = ["", "W", "V", "MHz", "MT/s", "GB", "MB", "%", "°C", "s", "ms", "fps", "Hz", "rpm", "cycles"];

/** A setting that the catalogue does not know: what it holds, what it acts on, where it is made, how it is verified. */
export function DefineSetting({ label, onMade, onClose }: Props) {
  const client = useQueryClient();
  const [kind, setKind] = useState("choice");
  const numeric = kind === "number" || kind === "whole";
  return (
    <CreateDialog<Shapes["KnownSetting"]>
      title="A setting of our own"
      path="/api/settings"
      submit="Define it"
      bodyOf={(form) => ({
        ...Object.fromEntries(form),
        choices: String(form.get("choices") ?? "")
          .split(",")
          .map((one) => one.trim())
          .filter(Boolean),
      })}
      onMade={(made) => {
        void refresh(client, "systems");
        onMade(made);
      }}
      onClose={onClose}
    >
      <Field label="Its name">
        <input name="label" required maxLength={40} defaultValue={label} />
      </Field>
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Field label="What it holds">
          <select name="kind" value={kind} onChange={(event) => setKind(event.target.value)}>
            {KINDS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        {kind === "choice" && (
          <Field label="Its values" hint="With commas between them.">
            <input name="choices" required defaultValue="off, on" />
          </Field>
        )}
        {numeric && (
          <Field label="Unit">
            <select name="unit">
              {UNITS.map((unit) => (
                <option key={unit} value={unit}>
                  {unit || "none"}
                </option>
              ))}
            </select>
          </Field>
        )}
        <Field label="Acts on" hint="The plan check and the comparisons go by it.">
          <select name="touches">
            {TOUCHES.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </Field>
        <Field label="It is set">
          <select name="made_in">
            {MADE_IN.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <Field label="How one sees that it holds" hint="Told with the step that sets it.">
        <input name="verify" maxLength={200} placeholder="the menu under Performance says so" />
      </Field>
    </CreateDialog>
  );
}
