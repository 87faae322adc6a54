import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { workloadsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { count } from "../../marks/words";
import { ISOLATES } from "./Tests";
import { TestTable } from "./TestTable";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";

/** Several tests at once: typed or pasted as a table, or every combination of chosen values. */
export function AddTests({ onClose }: { onClose: () => void }) {
  const [by, setBy] = useState<"table" | "choice">("table");
  return (
    <Dialog open onClose={onClose} title="Add tests" wide>
      <p className="mb-3 flex gap-4 text-note" role="group" aria-label="How">
        <Button
          kind={by === "table" ? "strong" : "plain"}
          aria-pressed={by === "table"}
          onClick={() => setBy("table")}
        >
          By a table
        </Button>
        <Button
          kind={by === "choice" ? "strong" : "plain"}
          aria-pressed={by === "choice"}
          onClick={() => setBy("choice")}
        >
          From one workload, by choice
        </Button>
      </p>
      {by === "table" ? <TestTable onClose={onClose} /> : <Choice onClose={onClose} />}
    </Dialog>
  );
}

/** Every combination of the chosen values of one workload becomes a test. */
function Choice({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const workloads = useQuery(workloadsQuery());
  const act = useBriefAct(review);
  const [chosen, setChosen] = useState<number | null>(null);
  const [choices, setChoices] = useState<Record<string, unknown[]>>({});
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [isolates, setIsolates] = useState("");
  const workload = workloads.data?.find((one) => one.id === chosen) ?? workloads.data?.[0];
  if (!workload) {
    return (
      <p className="text-note">
        {workloads.isPending ? "Loading …" : "There is no workload yet; a table makes those that it names."}
      </p>
    );
  }
  const values: Record<string, unknown[]> = Object.fromEntries(
    workload.settings.map((one) => {
      const key = String(one.key);
      if (Array.isArray(one.values)) return [key, choices[key] ?? []];
      return [
        key,
        (typed[key] ?? "")
          .split(",")
          .map((text) => text.trim())
          .filter(Boolean)
          .map(numeric),
      ];
    }),
  );
  const used = Object.values(values).filter((list) => list.length);
  const total = used.reduce((product, list) => product * list.length, 1);
  const toggle = (key: string, value: unknown) => {
    const before = choices[key] ?? [];
    setChoices({
      ...choices,
      [key]: before.includes(value) ? before.filter((one) => one !== value) : [...before, value],
    });
  };
  const add = async () => {
    const saved = await act(
      "POST",
      "/tests",
      { workload: workload.id, choices: values, isolates },
      { said: `Tests of ${workload.name} are added.` },
    );
    if (saved) onClose();
  };
  return (
    <>
      <Field label="Workload">
        <select
          value={workload.id}
          onChange={(event) => {
            setChosen(Number(event.target.value));
            setChoices({});
            setTyped({});
          }}
        >
          {workloads.data?.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name} {one.version}, {one.kind_label}
            </option>
          ))}
        </select>
      </Field>
      {workload.settings.map((one) => {
        const key = String(one.key);
        const unit = one.unit ? ` in ${String(one.unit)}` : "";
        if (!Array.isArray(one.values)) {
          return (
            <Field
              key={key}
              label={`${String(one.label)}${unit}`}
              hint="Several values with commas between them."
            >
              <input
                value={typed[key] ?? ""}
                onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
              />
            </Field>
          );
        }
        return (
          <fieldset key={key} className="mb-3 text-note">
            <legend className="font-semibold">
              {String(one.label)}
              {unit}
            </legend>
            <div className="flex flex-wrap gap-x-4">
              {(one.values as unknown[]).map((value) => (
                <label key={String(value)} className="flex items-center gap-1.5">
                  <input
                    type="checkbox"
                    checked={(choices[key] ?? []).includes(value)}
                    onChange={() => toggle(key, value)}
                  />
                  {String(value)}
                </label>
              ))}
            </div>
          </fieldset>
        );
      })}
      <Field
        label="Meant to be limited by"
        hint="The part whose difference these settings should show; the plan check holds the factor against it."
      >
        <select value={isolates} onChange={(event) => setIsolates(event.target.value)}>
          {ISOLATES.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <div className="flex gap-3">
        <Button kind="strong" onClick={() => void add()}>
          Add {count(total, "test")}
        </Button>
        <Button onClick={onClose}>Not now</Button>
      </div>
    </>
  );
}

function numeric(text: string): unknown {
  return Number.isFinite(Number(text)) ? Number(text) : text;
}
