import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { SystemDetail } from "../api/client";
import { systemQuery } from "../api/queries";
import { Button } from "../design/Button";
import { found, Search } from "../design/Search";
import { When } from "../design/When";
import { count } from "../marks/words";
import { History } from "../shell/History";
import { Failed, Loading } from "../shell/States";
import { BenchFacts } from "./system/BenchFacts";
import { ConfigurationPane } from "./system/ConfigurationPane";
import { EditConfiguration } from "./system/EditConfiguration";
import { EditSystem } from "./system/EditSystem";
import { FollowUpsOf } from "../followups/FollowUpsOf";
import { WatchItems } from "../followups/WatchItems";
import { Book } from "./system/Book";
import { SystemLog } from "./system/SystemLog";
import { useMay } from "../api/session";
import { useKeeping } from "../design/useKeeping";

/** One machine: its configurations, each told as what differs from its base, with slots, settings and observations. */
export function System() {
  const may = useMay();
  const id = Number(useParams().system);
  const system = useQuery(systemQuery(id));
  const [params, setParams] = useSearchParams();
  const [editing, setEditing] = useState(false);
  const [adding, setAdding] = useState(false);
  const [archived, setArchived] = useState(false);
  const [search, setSearch] = useState("");
  if (system.isPending) return <Loading />;
  if (system.isError) return <Failed error={system.error} again={() => void system.refetch()} />;
  const data = system.data;
  const edits = may("edit_systems");
  const shown = data.configurations.filter(
    (one) => (archived || !one.archived_at) && found(search, one.title, one.note, one.blocked),
  );
  const chosen =
    data.configurations.find((one) => one.id === Number(params.get("configuration"))) ??
    data.configurations.find((one) => one.id === data.present) ??
    shown[0];
  const choose = (one: number) => setParams({ configuration: String(one) }, { replace: true });
  return (
    <main className="p-5">
      <Head system={data} may={edits} onEdit={() => setEditing(true)} />
      <div className="grid gap-6 lg:grid-cols-[280px_minmax(0,1fr)_260px]">
        <nav aria-label="Configurations">
          <div className="mb-2 flex items-center justify-between">
            <h2 className="text-note font-semibold">Configurations</h2>
            {edits && <Button onClick={() => setAdding(true)}>Add one</Button>}
          </div>
          {data.configurations.length > 6 && (
            <Search value={search} onChange={setSearch} label="Search the configurations" />
          )}
          {data.configurations.length === 0 && (
            <p className="text-note text-quiet">
              None yet. The first one says everything, the next only what differs.
            </p>
          )}
          <ul className="border-t border-line">
            {shown.map((one) => (
              <li key={one.id} className="border-b border-line">
                <button
                  type="button"
                  aria-current={one.id === chosen?.id}
                  onClick={() => choose(one.id)}
                  className={`block w-full px-2 py-1.5 text-left text-note hover:bg-band ${one.id === chosen?.id ? "border-l-3 border-mark bg-band" : ""}`}
                >
                  <span className="font-semibold">{one.title}</span>
                  {one.id === data.present && <span className="text-better"> · on the machine</span>}
                  {one.blocked && <span className="text-mark"> · ⚑ cannot be built</span>}
                  <span className="block text-small text-quiet">{summary(one, data)}</span>
                </button>
              </li>
            ))}
          </ul>
          {data.configurations.some((one) => one.archived_at) && (
            <label className="mt-2 flex items-center gap-1.5 text-note">
              <input
                type="checkbox"
                checked={archived}
                onChange={(event) => setArchived(event.target.checked)}
              />
              archived too
            </label>
          )}
        </nav>
        {chosen ? (
          <ConfigurationPane
            key={chosen.id}
            system={data}
            configuration={chosen}

            onChoose={choose}
          />
        ) : (
          <div />
        )}
        <BenchFacts system={data} />
      </div>
      <FollowUpsOf about={{ system: data.id }} />
      <WatchItems system={data.id} />
      <SystemLog system={data.id} />
      <Book system={data.id} />
      {editing && <EditSystem system={data} onClose={() => setEditing(false)} />}
      {adding && <EditConfiguration system={data} onClose={() => setAdding(false)} onStored={choose} />}
    </main>
  );
}

/** A configuration in a line: what it changes on its base. */
function summary(one: SystemDetail["configurations"][number], system: SystemDetail): string {
  const base = system.configurations.find((other) => other.id === one.base);
  if (!base) return "stands for itself";
  if (!one.changes.length) return `the same as ${base.title}`;
  const first = one.changes.slice(0, 2).map((change) => `${change.label} ${change.after}`);
  const more = one.changes.length > 2 ? `, and ${one.changes.length - 2} more` : "";
  return `${base.title}, but ${first.join(", ")}${more}`;
}

function Head({ system, may, onEdit }: { system: SystemDetail; may: boolean; onEdit: () => void }) {
  const { archive } = useKeeping(`/api/systems/${system.id}`, system.name, "systems");
  const away = !system.archived_at;
  return (
    <div className="mb-4 flex items-start justify-between gap-6 border-b border-line pb-3">
      <div>
        <h1 className="font-serif text-title font-semibold">{system.name}</h1>
        <p className="text-note text-quiet">{system.description}</p>
        <p className="mt-1 text-note text-quiet">
          {system.simulated ? "Simulated" : "Real"}, {system.origin}
          {system.origin_note && ` ${system.origin_note}`} ·{" "}
          {system.changes_by === "tester"
            ? "changes are made by a tester"
            : "the bench makes changes by itself"}{" "}
          · {count(system.slots.length, "memory slot")}
          {system.connectors.length > 0 && ` · ${system.connectors.join(", ")}`}
          {system.heard_at && (
            <>
              {" "}
              · bench heard <When at={system.heard_at} />
            </>
          )}
        </p>
        {system.clock_doubt && <p className="text-note text-mark">⚑ {system.clock_doubt}</p>}
      </div>
      <span className="flex shrink-0 items-center gap-3">
        <Link to={`/systems/${system.id}/docket`} className="text-note underline">
          Docket
        </Link>
        <History kind="system" id={system.id} name={system.name} />
        {may && <Button onClick={() => archive(away)}>{away ? "Archive" : "Bring back"}</Button>}
        {may && <Button onClick={onEdit}>Edit the system</Button>}
      </span>
    </div>
  );
}
