import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import type { WorkloadShape } from "../api/client";
import { fitnessQuery, workloadsQuery } from "../api/queries";
import { CreateDialog } from "../design/CreateDialog";
import { Field } from "../design/Field";
import { found, Search } from "../design/Search";
import { useAct } from "../design/useAct";
import { count } from "../marks/words";
import { Exchange } from "../shell/Exchange";
import { Failed, Loading } from "../shell/States";
import { WorkloadPane } from "./workloads/WorkloadPane";
import { useMay } from "../api/session";
import { ListHead } from "../design/ListHead";
import { useVocabulary } from "../api/vocabulary";

/** What is run, in which version; the chosen one beside the list. */
export function Workloads() {
  const { workload_kinds: kinds } = useVocabulary();
  const may = useMay();
  const [archived, setArchived] = useState(false);
  const workloads = useQuery(workloadsQuery(archived));
  const fitness = useQuery(fitnessQuery).data;
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState("");
  const [kind, setKind] = useState("");
  const [adding, setAdding] = useState(false);
  if (workloads.isPending) return <Loading />;
  if (workloads.isError) return <Failed error={workloads.error} again={() => void workloads.refetch()} />;
  const edits = may("edit_workloads");
  const shown = workloads.data.filter(
    (one) =>
      (!kind || one.kind === kind) && found(search, one.name, one.version, one.kind_label, one.description),
  );
  const chosen = workloads.data.find((one) => one.id === Number(params.get("workload"))) ?? shown[0];
  const choose = (one: number | null) => setParams(one ? { workload: String(one) } : {}, { replace: true });
  return (
    <main className="p-5">
      <ListHead title="Workloads" adds="Add a workload" onAdd={edits ? () => setAdding(true) : undefined}>
        <Exchange path="/api/workloads" made="workloads" may={edits} />
      </ListHead>
      <Search value={search} onChange={setSearch} label="Search the workloads">
        <select
          aria-label="Kind"
          value={kind}
          onChange={(event) => setKind(event.target.value)}
          className="border border-ink bg-sheet px-2 py-1"
        >
          <option value="">every kind</option>
          {Object.entries(kinds).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={archived} onChange={(event) => setArchived(event.target.checked)} />
          archived too
        </label>
        <span className="text-quiet" role="status">
          {count(shown.length, "workload")}
        </span>
      </Search>
      {workloads.data.length === 0 && (
        <p className="font-serif text-lead">No workload yet. Add one, or import a list of them.</p>
      )}
      <div className="grid gap-6 lg:grid-cols-[300px_minmax(0,1fr)]">
        <ul className="border-t border-line">
          {shown.map((one) => (
            <li key={one.id} className="border-b border-line">
              <button
                type="button"
                aria-current={one.id === chosen?.id}
                onClick={() => choose(one.id)}
                className={`block w-full px-2 py-1.5 text-left text-note hover:bg-band ${one.id === chosen?.id ? "border-l-3 border-mark bg-band" : ""}`}
              >
                <span className="font-semibold">{one.name}</span>{" "}
                <span className="text-quiet">{one.version}</span>
                {one.archived_at && <span className="text-quiet"> (archived)</span>}
                <span className="block text-small text-quiet">
                  {one.kind_label}
                  {fitness && ` · ${count(fitness.get(one.id)?.passes ?? 0, "pass")} on record`}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {chosen && <WorkloadPane key={chosen.id} workload={chosen} may={edits} onChoose={choose} />}
      </div>
      {adding && <NewWorkload onClose={() => setAdding(false)} onMade={choose} />}
    </main>
  );
}

function NewWorkload({ onClose, onMade }: { onClose: () => void; onMade: (id: number) => void }) {
  const { workload_kinds: kinds } = useVocabulary();
  const run = useAct();
  return (
    <CreateDialog<WorkloadShape>
      title="Add a workload"
      path="/api/workloads"
      onMade={(made) => {
        void run(() => Promise.resolve(), { made: "workloads" });
        onMade(made.id);
        onClose();
      }}
      onClose={onClose}
    >
      <Field label="Name">
        <input name="name" required maxLength={120} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Version">
          <input name="version" required maxLength={40} />
        </Field>
        <Field label="Key" hint="One key for all its versions.">
          <input name="key" required pattern="[a-zA-Z0-9_\-]+" maxLength={50} />
        </Field>
      </div>
      <Field label="Kind">
        <select name="kind">
          {Object.entries(kinds).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <Field label="Runner" hint="The name by which benches know it; empty for one that is run by hand.">
        <input name="runner" maxLength={60} />
      </Field>
      <Field label="What it is">
        <textarea name="description" rows={2} />
      </Field>
    </CreateDialog>
  );
}
