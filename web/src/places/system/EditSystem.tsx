import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { editSystem } from "../../api/acts";
import type { SystemDetail } from "../../api/client";
import { catalogueQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { VersionedForm } from "../../design/VersionedForm";

interface SlotRow {
  name: string;
  channel: string;
  fill: number;
}

const INPUT = "w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink";

/** A system's own facts: its slot map and limits, connectors, who changes it, what is looked at before a run. */
export function EditSystem({ system, onClose }: { system: SystemDetail; onClose: () => void }) {
  const [began] = useState(system);
  const map = began.slot_map as {
    max_gb?: number;
    max_module_gb?: number;
    takes_ecc?: boolean;
    speeds?: { modules_per_channel: number; rate_mts: number }[];
  };
  const [slots, setSlots] = useState<SlotRow[]>(began.slots);
  const origins = useQuery(catalogueQuery).data?.origins ?? [began.origin];
  const run = useAct();
  const set = (at: number, change: Partial<SlotRow>) =>
    setSlots(slots.map((slot, i) => (i === at ? { ...slot, ...change } : slot)));
  const changesOf = (form: FormData): Partial<SystemDetail> => {
    const text = (name: string) => String(form.get(name) ?? "");
    const number = (name: string) => (text(name) ? Number(text(name)) : null);
    const speeds = [1, 2, 3].flatMap((modules) => {
      const rate = number(`speed-${modules}`);
      return rate === null ? [] : [{ modules_per_channel: modules, rate_mts: rate }];
    });
    const takes = text("takes_ecc");
    return {
      name: text("name"),
      description: text("description"),
      connectors: lines(text("connectors")),
      origin: text("origin") as SystemDetail["origin"],
      origin_note: text("origin_note"),
      changes_by: text("changes_by"),
      on_mismatch: text("on_mismatch"),
      slot_map: {
        slots,
        max_gb: number("max_gb"),
        max_module_gb: number("max_module_gb"),
        speeds,
        takes_ecc: takes === "" ? null : takes === "yes",
      },
      checks: checksOf(text("checks"), began.checks),
    };
  };
  return (
    <Dialog open onClose={onClose} title={`Edit ${system.name}`} wide>
      <VersionedForm
        began={began}
        version={(one) => one.version}
        store={(version, changes) => editSystem(began.id, version, changes)}
        label={`Edit ${system.name}`}
        words={{ slot_map: "Slot map", checks: "Pre-run checks", connectors: "Connectors" }}
        changesOf={changesOf}
        onSaved={() => void run(() => Promise.resolve(), { made: "systems" })}
        onClose={onClose}
      >
        <div className="grid grid-cols-2 gap-3">
          <Field label="Name">
            <input name="name" required maxLength={120} defaultValue={began.name} />
          </Field>
          <Field label="Where it comes from">
            <select name="origin" defaultValue={began.origin}>
              {origins.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </Field>
          <Field label="More about its origin">
            <input name="origin_note" maxLength={200} defaultValue={began.origin_note} />
          </Field>
        </div>
        <Field label="What it is">
          <textarea name="description" rows={2} defaultValue={began.description} />
        </Field>
        <fieldset className="mb-3 text-note">
          <legend className="mb-1 font-semibold">Memory slots</legend>
          <table className="w-full border-collapse">
            <thead>
              <tr className="text-left text-quiet">
                <th className="font-normal">Slot</th>
                <th className="font-normal">Channel</th>
                <th className="font-normal">Filled as number</th>
                <th aria-label="Remove" />
              </tr>
            </thead>
            <tbody>
              {slots.map((slot, at) => (
                <tr key={at} className="border-t border-line">
                  <td className="py-0.5 pr-2">
                    <input
                      aria-label={`Name of slot ${at + 1}`}
                      value={slot.name}
                      onChange={(event) => set(at, { name: event.target.value })}
                      className={INPUT}
                    />
                  </td>
                  <td className="py-0.5 pr-2">
                    <input
                      aria-label={`Channel of slot ${at + 1}`}
                      value={slot.channel}
                      onChange={(event) => set(at, { channel: event.target.value })}
                      className={INPUT}
                    />
                  </td>
                  <td className="py-0.5 pr-2">
                    <input
                      aria-label={`Order of filling of slot ${at + 1}`}
                      type="number"
                      min={1}
                      value={slot.fill}
                      onChange={(event) => set(at, { fill: Number(event.target.value) })}
                      className={INPUT}
                    />
                  </td>
                  <td>
                    <Button
                      kind="bare"
                      aria-label={`Remove slot ${slot.name}`}
                      onClick={() => setSlots(slots.filter((_, i) => i !== at))}
                    >
                      ×
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Button
            kind="link"
            onClick={() => setSlots([...slots, { name: "", channel: "", fill: slots.length + 1 }])}
          >
            One more slot
          </Button>
        </fieldset>
        <div className="grid grid-cols-3 gap-3">
          <Field label="At most, in GB">
            <input name="max_gb" inputMode="decimal" defaultValue={map.max_gb ?? ""} />
          </Field>
          <Field label="A module at most, in GB">
            <input name="max_module_gb" inputMode="decimal" defaultValue={map.max_module_gb ?? ""} />
          </Field>
          <Field label="Error correction">
            <select
              name="takes_ecc"
              defaultValue={map.takes_ecc === true ? "yes" : map.takes_ecc === false ? "no" : ""}
            >
              <option value="">not known</option>
              <option value="yes">takes it</option>
              <option value="no">does not take it</option>
            </select>
          </Field>
          {[1, 2, 3].map((modules) => (
            <Field key={modules} label={`MT/s with ${modules} on a channel`}>
              <input
                name={`speed-${modules}`}
                inputMode="decimal"
                defaultValue={map.speeds?.find((one) => one.modules_per_channel === modules)?.rate_mts ?? ""}
              />
            </Field>
          ))}
        </div>
        <Field label="Connectors" hint="One in each line.">
          <textarea name="connectors" rows={2} defaultValue={began.connectors.join("\n")} />
        </Field>
        <div className="grid grid-cols-2 gap-3">
          <Field label="Changes are made by">
            <select name="changes_by" defaultValue={began.changes_by}>
              <option value="tester">a tester at the machine</option>
              <option value="bench">the bench itself</option>
            </select>
          </Field>
          <Field label="When observed is not what was set">
            <select name="on_mismatch" defaultValue={began.on_mismatch}>
              <option value="stop">stop the docket</option>
              <option value="flag">go on and flag it</option>
            </select>
          </Field>
        </div>
        <Field
          label="Pre-run checks"
          hint="One in each line; a reading with its limit after a bar: The processor is cool. | temperature at most 45 °C"
        >
          <textarea name="checks" rows={4} defaultValue={began.checks.map(checkLine).join("\n")} />
        </Field>
      </VersionedForm>
    </Dialog>
  );
}

function lines(text: string): string[] {
  return text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
}

/** Begins a check that is looked at before each pass by hand. */
const EACH = /^each pass:\s*/i;

type Check = SystemDetail["checks"][number];

function checkLine(check: Check): string {
  const each = check.each_pass ? "each pass: " : "";
  if (!check.reading) return each + String(check.words);
  const limit = typeof check.at_most === "number" ? ` at most ${check.at_most}` : "";
  return `${each}${String(check.words)} | ${String(check.reading)}${limit} ${String(check.unit ?? "")}`.trim();
}

/** Checks from lines; a check that was there before keeps its key. */
function checksOf(text: string, before: Check[]): Check[] {
  return lines(text).map((line, at) => {
    const [said = "", reading = ""] = line.split("|").map((piece) => piece.trim());
    const words = said.replace(EACH, "");
    const each = EACH.test(said) ? { each_pass: true } : {};
    const known = before.find((check) => check.words === words);
    const key = String(known?.key ?? `check-${at + 1}-${words.length}`);
    if (!reading) return { key, words, ...each };
    const bounded = /^(.*?) at most (-?[\d.]+)\s*(.*)$/.exec(reading);
    if (bounded) {
      return {
        key,
        words,
        reading: bounded[1],
        at_most: Number(bounded[2]),
        unit: bounded[3] ?? "",
        ...each,
      };
    }
    const unit = /\s(\S+)$/.exec(reading)?.[1] ?? "";
    return { key, words, reading: unit ? reading.slice(0, -unit.length).trim() : reading, unit, ...each };
  });
}
