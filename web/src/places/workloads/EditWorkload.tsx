import { useState } from "react";
import { editWorkload } from "../../api/acts";
import type { WorkloadShape } from "../../api/client";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { VersionedForm } from "../../design/VersionedForm";
import { CommandFields, commandOf } from "./CommandFields";
import { RowsField, type Column, type Row } from "./RowsField";

const STEPS: Column[] = [
  {
    key: "kind",
    label: "Kind",
    choices: ["scene", "route", "input", "start", "end", "warm-up", "duration", "other"],
  },
  { key: "words", label: "What is done", wide: true },
  { key: "seconds", label: "Seconds", number: true },
];
const SETTINGS: Column[] = [
  { key: "key", label: "Key" },
  { key: "label", label: "Name" },
  { key: "unit", label: "Unit" },
  { key: "values", label: "Allowed values, with commas", list: true, wide: true },
];
const METRICS: Column[] = [
  { key: "key", label: "Key" },
  { key: "label", label: "Name" },
  { key: "unit", label: "Unit" },
  { key: "direction", label: "Better", choices: ["higher", "lower"] },
  { key: "scale", label: "Scale", choices: ["ratio", "difference"] },
  { key: "role", label: "Role" },
];
const REQUIREMENTS: Column[] = [
  {
    key: "aspect",
    label: "Of the machine",
    choices: ["memory.capacity_gb", "graphics_memory_gb", "part.processor.threads"],
  },
  { key: "label", label: "In words" },
  { key: "least", label: "At least", number: true },
  { key: "unit", label: "Unit" },
];
const RULES: Column[] = [
  { key: "name", label: "Name" },
  { key: "kind", label: "Kind", choices: ["text", "json", "table"] },
  { key: "expression", label: "Expression, path or column", wide: true },
  { key: "metric", label: "Metric" },
];
const CHECKS: Column[] = [
  { key: "key", label: "Key" },
  { key: "words", label: "What is looked at", wide: true },
  { key: "reading", label: "Reading" },
  { key: "at_most", label: "At most", number: true },
  { key: "unit", label: "Unit" },
  { key: "each_pass", label: "Each pass", yes: true },
];
const COMPARABLE: Column[] = [
  { key: "version", label: "Version" },
  { key: "why", label: "Why it is comparable", wide: true },
];

/** Everything about a workload as one form. */
export function EditWorkload({ workload, onClose }: { workload: WorkloadShape; onClose: () => void }) {
  const [began] = useState(workload);
  const [steps, setSteps] = useState<Row[]>(began.steps);
  const [settings, setSettings] = useState<Row[]>(began.settings);
  const [metrics, setMetrics] = useState<Row[]>(began.metrics);
  const [requirements, setRequirements] = useState<Row[]>(began.requirements);
  const [rules, setRules] = useState<Row[]>(began.rules);
  const [checks, setChecks] = useState<Row[]>(began.checks);
  const [comparable, setComparable] = useState<Row[]>(began.comparable);
  const run = useAct();
  const changesOf = (form: FormData): Partial<WorkloadShape> => {
    const text = (name: string) => String(form.get(name) ?? "");
    const number = (name: string) => (text(name) ? Number(text(name)) : null);
    return {
      name: text("name"),
      description: text("description"),
      procedure: text("procedure"),
      files: text("files"),
      judgement: text("judgement"),
      duration_s: number("duration_s"),
      warm_up_s: number("warm_up_s"),
      steps,
      settings,
      metrics,
      requirements,
      rules,
      comparable,
      checks,
      first_run_apart: form.get("first_run_apart") !== null,
      ...(began.runner === "command" || commandOf(form)
        ? { runner: commandOf(form) ? "command" : "", command: commandOf(form) ?? {} }
        : {}),
    };
  };
  return (
    <Dialog open onClose={onClose} title={`Edit ${workload.name} ${workload.version}`} wide>
      {began.fixed && (
        <p className="mb-3 text-note text-quiet">
          It has passes on record. How it is run, its settings and its metrics stay as they are; for other
          ones, make a new edition.
        </p>
      )}
      <VersionedForm
        began={began}
        version={(one) => one.edit}
        store={(version, changes) => editWorkload(began.id, version, changes)}
        label={`Edit ${workload.name}`}
        words={{ name: "Name", description: "What it is", rules: "Reading rules" }}
        changesOf={changesOf}
        onSaved={() => void run(() => Promise.resolve(), { made: "workloads" })}
        onClose={onClose}
      >
        <Field label="Name">
          <input name="name" required maxLength={120} defaultValue={began.name} />
        </Field>
        <Field label="What it is">
          <textarea name="description" rows={2} defaultValue={began.description} />
        </Field>
        <Field label="Procedure in a sentence">
          <input name="procedure" defaultValue={began.procedure} />
        </Field>
        <RowsField title="Steps" columns={STEPS} rows={steps} onChange={setSteps} />
        <div className="grid grid-cols-2 gap-3">
          <Field label="A pass takes, in seconds">
            <input name="duration_s" inputMode="decimal" defaultValue={began.duration_s ?? ""} />
          </Field>
          <Field label="Warm after, in seconds">
            <input name="warm_up_s" inputMode="decimal" defaultValue={began.warm_up_s ?? ""} />
          </Field>
        </div>
        <label className="mb-3 flex items-center gap-2 text-note">
          <input type="checkbox" name="first_run_apart" defaultChecked={began.first_run_apart} />
          Its first run after a start is another thing than the warm runs: kept apart, compared with its like
        </label>
        <CommandFields workload={began} />
        <RowsField title="Settings" columns={SETTINGS} rows={settings} onChange={setSettings} />
        <RowsField title="Reports" columns={METRICS} rows={metrics} onChange={setMetrics} />
        <p className="-mt-3 mb-4 text-note text-quiet">
          Leave this empty where the average rate and its lows are all that is read; what a game reports
          itself stands beside them and replaces nothing.
        </p>
        <RowsField title="Asks for" columns={REQUIREMENTS} rows={requirements} onChange={setRequirements} />
        <RowsField title="Reading rules" columns={RULES} rows={rules} onChange={setRules} />
        <RowsField title="Pre-run checks" columns={CHECKS} rows={checks} onChange={setChecks} />
        {began.editions.length > 0 && (
          <RowsField
            title="Comparable editions"
            columns={COMPARABLE}
            rows={comparable}
            onChange={setComparable}
          />
        )}
        <Field label="Where its files come from">
          <textarea name="files" rows={2} defaultValue={began.files} />
        </Field>
        <Field label="What we think of it as a test">
          <textarea name="judgement" rows={2} defaultValue={began.judgement} />
        </Field>
      </VersionedForm>
    </Dialog>
  );
}
