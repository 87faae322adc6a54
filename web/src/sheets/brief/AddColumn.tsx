import { useQueries, useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { addConfiguration } from "../../api/acts";
import type { ConfigurationShape, SystemDetail } from "../../api/client";
import { systemQuery, systemsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { found, Search } from "../../design/Search";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { useAct } from "../../design/useAct";

/** Choose configurations of any system, or make one that is the same as another; it is set in the table then. */
export function AddColumn({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const systems = useQuery(systemsQuery);
  const details = useQueries({ queries: (systems.data ?? []).map((one) => systemQuery(one.id)) });
  const [search, setSearch] = useState("");
  const act = useBriefAct(review);
  const may = useMay()("edit_systems");
  const there = new Set(review.columns.map((column) => column.configuration_id));
  const offered = details
    .flatMap((query) => (query.data ? [query.data] : []))
    .map((system) => ({
      system,
      configurations: system.configurations.filter(
        (one) => !one.archived_at && found(search, system.name, one.title, one.note),
      ),
    }))
    .filter((group) => group.configurations.length || found(search, group.system.name));
  const [making, setMaking] = useState<{ system: SystemDetail; base?: ConfigurationShape } | null>(null);
  const [name, setName] = useState("");
  const run = useAct();
  const put = (configuration: number, title: string) =>
    act(
      "POST",
      "/columns",
      { configuration },
      {
        said: `${title} is added.`,
        undo: (after) => act("DELETE", `/columns/${after.columns.at(-1)?.id}`),
      },
    );
  const make = async (event: FormEvent) => {
    event.preventDefault();
    if (!making) return;
    const { system, base } = making;
    const made = await run(() => addConfiguration(system.id, { name, base: base?.id ?? null }), {
      made: "systems",
    });
    // Meanwhile another one may have been begun, which stays.
    if (made && (await put(made.id, made.title))) setMaking((now) => (now === making ? null : now));
  };
  const form = (
    <form onSubmit={(event) => void make(event)} className="flex items-center gap-2 py-1 text-note">
      <input
        autoFocus
        required
        maxLength={120}
        aria-label="Name of the new configuration"
        value={name}
        onChange={(event) => setName(event.target.value)}
        className="flex-1 border border-ink bg-sheet px-2 py-0.5"
      />
      <Button type="submit">Make and add it</Button>
      <Button kind="link" onClick={() => setMaking(null)}>
        Not now
      </Button>
    </form>
  );
  const begin = (system: SystemDetail, base?: ConfigurationShape) => {
    setName(base ? `${base.name}, ` : system.name);
    setMaking({ system, base });
  };
  return (
    <Dialog open onClose={onClose} title="Add a configuration" wide>
      <Search value={search} onChange={setSearch} label="Search systems and configurations" />
      {details.some((query) => query.isPending) && <p className="text-quiet">Loading …</p>}
      <div className="max-h-[55vh] overflow-auto">
        {offered.map(({ system, configurations }) => (
          <section key={system.id} className="mb-3">
            <h3 className="text-note font-semibold">
              {system.name}{" "}
              {configurations.length === 0 && (
                <Button kind="link" onClick={() => begin(system)}>
                  make its first configuration
                </Button>
              )}
            </h3>
            {making?.system.id === system.id && !making.base && form}
            <ul>
              {configurations.map((one) => (
                <li key={one.id} className="border-t border-line py-1 text-note">
                  <div className="flex items-center justify-between gap-3">
                    <span className="flex-1">
                      {one.title}
                      {one.note && <span className="text-quiet"> · {one.note}</span>}
                      {one.blocked && <span className="text-mark"> · ⚑ cannot be built</span>}
                    </span>
                    {!one.blocked && may && (
                      <Button
                        kind="link"
                        aria-label={`like it, but …: one like ${one.title}`}
                        onClick={() => begin(system, one)}
                      >
                        like it, but …
                      </Button>
                    )}
                    {there.has(one.id) ? (
                      <span className="text-quiet">in the review</span>
                    ) : (
                      <Button aria-label={`Add ${one.title}`} onClick={() => void put(one.id, one.title)}>
                        Add
                      </Button>
                    )}
                  </div>
                  {making?.base?.id === one.id && form}
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <Button kind="strong" className="mt-3" onClick={onClose}>
        Done
      </Button>
    </Dialog>
  );
}
