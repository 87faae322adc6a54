import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { WorkloadShape } from "../../api/client";
import { fitnessQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { count, duration, figure } from "../../marks/words";
import { History } from "../../shell/History";
import { EditWorkload } from "./EditWorkload";
import { RuleTester } from "./RuleTester";
import { Started } from "./Started";
import { useKeeping } from "../../design/useKeeping";

interface Props {
  workload: WorkloadShape;
  may: boolean;
  onChoose: (id: number | null) => void;
}

/** One workload in one version: how it is run, what it reports, what it asks for, and whether it is fit as a test. */
export function WorkloadPane({ workload, may, onChoose }: Props) {
  const [open, setOpen] = useState<"edit" | "edition" | null>(null);
  const path = `/api/workloads/${workload.id}`;
  const { archive, remove } = useKeeping(path, `${workload.name} ${workload.version}`, "workloads");
  return (
    <section aria-label={`${workload.name} ${workload.version}`} className="min-w-0">
      <div className="mb-1 flex items-start justify-between gap-3">
        <h2 className="font-serif text-lead font-semibold">
          {workload.name} <span className="text-quiet">{workload.version}</span>
        </h2>
        <span className="flex flex-wrap items-center justify-end gap-2">
          {may && <Button onClick={() => setOpen("edit")}>Edit</Button>}
          {may && <Button onClick={() => setOpen("edition")}>New edition</Button>}
          {may && (
            <Button onClick={() => archive(!workload.archived_at)}>
              {workload.archived_at ? "Bring back" : "Archive"}
            </Button>
          )}
          {may && workload.used_in === 0 && (
            <Button onClick={() => void remove(() => onChoose(null))}>Delete</Button>
          )}
          <History kind="workload" id={workload.id} name={`${workload.name} ${workload.version}`} />
        </span>
      </div>
      <p className="text-note text-quiet">
        {workload.kind_label}
        {workload.duration_s !== null && ` · ${duration(workload.duration_s)} a pass`}
        {workload.warm_up_s !== null && `, ${duration(workload.warm_up_s)} of it to warm up`}
        {workload.used_in > 0 && ` · in ${count(workload.used_in, "review")}`}
        {workload.fixed && " · fixed, as it has passes: changes to how it is run make a new edition"}
      </p>
      <p className="my-2 max-w-[720px] font-serif">{workload.description}</p>
      <div className="grid gap-x-8 gap-y-4 xl:grid-cols-2">
        <div className="flex flex-col gap-4">
          <Fitness workload={workload} />
          <Editions workload={workload} onChoose={onChoose} />
          <Started workload={workload} />
          <Lists workload={workload} />
        </div>
        <Steps workload={workload} />
      </div>
      {may && <RuleTester workload={workload} />}
      {open === "edit" && <EditWorkload workload={workload} onClose={() => setOpen(null)} />}
      {open === "edition" && (
        <NewEdition workload={workload} onClose={() => setOpen(null)} onMade={onChoose} />
      )}
    </section>
  );
}

function Fitness({ workload }: { workload: WorkloadShape }) {
  const found = useQuery(fitnessQuery).data?.get(workload.id);
  if (!found) return null;
  const { passes, duration_s, average_fps, remarks } = found;
  return (
    <section>
      <h3 className="text-note font-semibold">Is it fit?</h3>
      <ul className="text-note">
        {remarks.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      {passes > 0 && (
        <p className="text-note text-quiet">
          From {count(passes, "pass")} on record
          {duration_s !== null && `: ${duration(duration_s)} on average`}
          {average_fps !== null && `, at ${figure(average_fps)} fps`}.
        </p>
      )}
    </section>
  );
}

function Editions({ workload, onChoose }: { workload: WorkloadShape; onChoose: (id: number) => void }) {
  if (!workload.editions.length) return null;
  return (
    <section>
      <h3 className="text-note font-semibold">Other editions</h3>
      <ul className="text-note">
        {workload.editions.map((other) => (
          <li key={other.id}>
            <button type="button" className="underline" onClick={() => onChoose(other.id)}>
              version {other.version}
            </button>{" "}
            {other.comparable ? (
              <>declared comparable: {other.why}</>
            ) : (
              <span className="text-quiet">never compared with this one</span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Steps({ workload }: { workload: WorkloadShape }) {
  return (
    <section>
      <h3 className="text-note font-semibold">Procedure</h3>
      <p className="text-note">{workload.procedure}</p>
      <ol className="mt-1 text-note">
        {workload.steps.map((step, at) => (
          <li key={at} className="flex gap-3 border-t border-line py-0.5">
            <span className="w-16 shrink-0 text-quiet">{String(step.kind)}</span>
            <span className="flex-1">{String(step.words)}</span>
            {typeof step.seconds === "number" && <span>{duration(step.seconds)}</span>}
          </li>
        ))}
      </ol>
      {workload.files && (
        <p className="mt-2 text-note">
          <span className="font-semibold">Its files:</span> {workload.files}
        </p>
      )}
    </section>
  );
}

function Lists({ workload }: { workload: WorkloadShape }) {
  return (
    <section className="text-note">
      <h3 className="font-semibold">Settings</h3>
      {workload.settings.length === 0 && <p className="text-quiet">None.</p>}
      {workload.settings.map((one) => (
        <p key={String(one.key)} className="border-t border-line py-0.5">
          {String(one.label)}
          {one.unit ? ` in ${String(one.unit)}` : ""}{" "}
          <span className="text-quiet">
            {Array.isArray(one.values) ? one.values.join(" · ") : "any value"}
          </span>
        </p>
      ))}
      <h3 className="mt-2 font-semibold">Reports</h3>
      {workload.metrics.length === 0 && (
        <p className="text-quiet">The figures of its frames; nothing beyond them.</p>
      )}
      {workload.metrics.map((one) => (
        <p key={String(one.key)} className="border-t border-line py-0.5">
          {String(one.label)} in {String(one.unit)}{" "}
          <span className="text-quiet">
            {String(one.direction)} is better, compared by {String(one.scale)}
            {one.role ? `, ${String(one.role)}` : ""}
          </span>
        </p>
      ))}
      {workload.requirements.length > 0 && <h3 className="mt-2 font-semibold">Asks for</h3>}
      {workload.requirements.map((one) => (
        <p key={String(one.aspect)} className="border-t border-line py-0.5">
          {String(one.label)}
          {typeof one.least === "number" && `, ${one.least} ${String(one.unit ?? "")} at least`}
        </p>
      ))}
    </section>
  );
}

function NewEdition({
  workload,
  onClose,
  onMade,
}: {
  workload: WorkloadShape;
  onClose: () => void;
  onMade: (id: number) => void;
}) {
  const run = useAct();
  const [version, setVersion] = useState("");
  const make = async () => {
    const made = await run(
      () => act<WorkloadShape>("POST", `/api/workloads/${workload.id}/editions`, { version }),
      {
        said: "The edition is made; it is not compared with the others until that is declared.",
        made: "workloads",
      },
    );
    if (made) {
      onMade(made.id);
      onClose();
    }
  };
  return (
    <Dialog open onClose={onClose} title={`A new edition of ${workload.name}`}>
      <Field label="Version" hint="Everything else begins as in the edition at hand.">
        <input value={version} onChange={(event) => setVersion(event.target.value)} maxLength={40} />
      </Field>
      <Button kind="strong" disabled={!version.trim()} onClick={() => void make()}>
        Make it
      </Button>
    </Dialog>
  );
}
