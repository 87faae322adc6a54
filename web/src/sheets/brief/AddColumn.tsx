import { useQueries, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { systemQuery, systemsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { found, Search } from "../../design/Search";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";

/** Choose configurations of any system; new ones are made on the system's page. */
export function AddColumn({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const systems = useQuery(systemsQuery);
  const details = useQueries({ queries: (systems.data ?? []).map((one) => systemQuery(one.id)) });
  const [search, setSearch] = useState("");
  const act = useBriefAct(review);
  const there = new Set(review.columns.map((column) => column.configuration_id));
  const offered = details
    .flatMap((query) => (query.data ? [query.data] : []))
    .map((system) => ({
      system,
      configurations: system.configurations.filter(
        (one) => !one.archived_at && found(search, system.name, one.title, one.note),
      ),
    }))
    .filter((group) => group.configurations.length);
  return (
    <Dialog open onClose={onClose} title="Add a configuration" wide>
      <Search value={search} onChange={setSearch} label="Search systems and configurations" />
      {details.some((query) => query.isPending) && <p className="text-quiet">Loading …</p>}
      <div className="max-h-[55vh] overflow-auto">
        {offered.map(({ system, configurations }) => (
          <section key={system.id} className="mb-3">
            <h3 className="text-note font-semibold">
              {system.name}{" "}
              <Link to={`/systems/${system.id}`} className="font-normal underline">
                make another
              </Link>
            </h3>
            <ul>
              {configurations.map((one) => (
                <li
                  key={one.id}
                  className="flex items-center justify-between gap-3 border-t border-line py-1 text-note"
                >
                  <span>
                    {one.title}
                    {one.note && <span className="text-quiet"> · {one.note}</span>}
                    {one.blocked && <span className="text-mark"> · ⚑ cannot be built</span>}
                  </span>
                  {there.has(one.id) ? (
                    <span className="text-quiet">in the review</span>
                  ) : (
                    <Button
                      aria-label={`Add ${one.title}`}
                      onClick={() =>
                        void act(
                          "POST",
                          "/columns",
                          { configuration: one.id },
                          { said: `${one.title} is added.` },
                        )
                      }
                    >
                      Add
                    </Button>
                  )}
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
