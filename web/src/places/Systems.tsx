import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { BenchGlance, Shapes, SystemDetail } from "../api/client";
import { benchesQuery, catalogueQuery, systemsQuery } from "../api/queries";
import { CreateDialog } from "../design/CreateDialog";
import { Field } from "../design/Field";
import { found, Search } from "../design/Search";
import { When } from "../design/When";
import { count, withUnit } from "../marks/words";
import { runningWords } from "../sheets/matrix/ProgressCellView";
import { Failed, Loading } from "../shell/States";
import { useMay } from "../api/session";
import { ListHead } from "../design/ListHead";

/** The machines under test. */
export function Systems() {
  const adds = useMay()("add_systems");
  const systems = useQuery(systemsQuery);
  const benches = useQuery(benchesQuery);
  const [adding, setAdding] = useState(false);
  const [search, setSearch] = useState("");
  if (systems.isPending) return <Loading />;
  if (systems.isError) return <Failed error={systems.error} again={() => void systems.refetch()} />;
  const shown = systems.data.filter((one) => found(search, one.name, one.description, one.present));
  return (
    <main className="p-5">
      <ListHead title="Systems" adds="Add a system" onAdd={adds ? () => setAdding(true) : undefined}>
        {!adds && (
          <span className="text-note text-quiet">
            An editor adds systems, an admin connects their benches.
          </span>
        )}
      </ListHead>
      <Search value={search} onChange={setSearch} label="Search the systems" />
      {systems.data.length === 0 && (
        <p className="font-serif text-lead">
          No system yet. Add one; it is run by hand, or by the bench that an admin connects.
        </p>
      )}
      <ul className="border-t border-line">
        {shown.map((system) => (
          <Item
            key={system.id}
            system={system}
            bench={benches.data?.find((one) => one.system === system.id)}
          />
        ))}
      </ul>
      {adding && <AddSystem onClose={() => setAdding(false)} />}
    </main>
  );
}

function Item({ system, bench }: { system: Shapes["SystemShape"]; bench?: BenchGlance }) {
  return (
    <li className="grid gap-x-8 border-b border-line py-3 lg:grid-cols-[1fr_300px_270px_190px]">
      <div>
        <Link
          to={`/systems/${system.id}`}
          className="font-serif text-[19px] font-semibold no-underline hover:underline"
        >
          {system.name}
        </Link>
        <p className="text-note text-quiet">{system.description}</p>
      </div>
      <Doing bench={bench} />
      <div className="text-note">
        <p>{system.present ? `is now: ${system.present}` : "its present configuration is not known"}</p>
        <p className="text-quiet">
          {count(system.configurations, "configuration")}
          {system.mistakes > 0 && (
            <span className="text-mark"> · ⚑ {count(system.mistakes, "slot mistake")}</span>
          )}
        </p>
      </div>
      <div className="text-note text-quiet">
        {system.simulated ? "simulated" : "real"} ·{" "}
        {system.heard_at ? (
          <>
            heard <When at={system.heard_at} />
          </>
        ) : system.has_bench ? (
          "its bench was not heard yet"
        ) : (
          "no bench"
        )}
        <p>
          <Link to={`/systems/${system.id}/docket`} className="underline">
            Docket
          </Link>
        </p>
      </div>
    </li>
  );
}

const GLANCED: [string, string][] = [
  ["temperature", "°C"],
  ["processor use", "%"],
  ["frame rate", "fps"],
];

/** What runs on a system and how it goes, or what waits and why. */
function Doing({ bench }: { bench?: BenchGlance }) {
  if (!bench) return <div />;
  const now = bench.running[0];
  const told = (now?.progress.readings ?? bench.readings) as Record<string, number | null>;
  const readings = GLANCED.flatMap(([name, unit]) => {
    const value = told[name];
    return typeof value === "number" ? [withUnit(value, unit)] : [];
  });
  return (
    <div className="text-note">
      {now ? (
        <Link to={`/running/${now.entry}`} className="underline decoration-line">
          <strong>{now.test_name}</strong> on {now.configuration}
        </Link>
      ) : bench.hold ? (
        <span className="text-mark">⚑ {bench.hold}</span>
      ) : (
        <span className="text-quiet">
          {!bench.owed
            ? "nothing owed"
            : bench.changes_by === "tester"
              ? "waits for a change by hand"
              : "about to begin"}
        </span>
      )}
      {now && <p>{now.by_hand ? `by hand, ${now.by_hand}` : runningWords(now, false)}</p>}
      <p className="text-quiet">
        {[bench.owed > 0 && `${count(bench.owed, "pass")} owed`, ...readings].filter(Boolean).join(" · ")}
      </p>
    </div>
  );
}

function AddSystem({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const origins = useQuery(catalogueQuery).data?.origins ?? [];
  return (
    <CreateDialog<SystemDetail>
      title="Add a system"
      path="/api/systems"
      onMade={(made) => void navigate(`/systems/${made.id}`)}
      onClose={onClose}
    >
      <Field label="Name">
        <input name="name" required maxLength={120} />
      </Field>
      <Field label="What it is">
        <textarea name="description" rows={2} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Where it comes from" hint="It stands in every record as an interest.">
          <select name="origin" required defaultValue="">
            <option value="" disabled>
              choose one
            </option>
            {origins.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </Field>
        <Field label="More about that">
          <input name="origin_note" maxLength={200} />
        </Field>
      </div>
    </CreateDialog>
  );
}
