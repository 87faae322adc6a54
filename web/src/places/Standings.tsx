import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { setsQuery, standingQuery, standingsQuery } from "../api/standings";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { found, Search } from "../design/Search";
import { count } from "../marks/words";
import { Failed, Loading } from "../shell/States";
import { Against } from "./standings/Against";
import { Choices } from "./standings/Choices";
import { Filters } from "./standings/Filters";
import { ForPrice } from "./standings/ForPrice";
import { OverTime } from "./standings/OverTime";
import { KeepInSet } from "./standings/sets/KeepInSet";
import { SavedList } from "./standings/saved/SavedList";
import { SetList } from "./standings/sets/SetList";
import { SetStanding } from "./standings/sets/SetStanding";
import { Ranked } from "./standings/Ranked";

const AS = [
  ["", "ranked"],
  ["time", "over time"],
  ["price", "for the price"],
] as const;

/** Results of all reviews beside one another; what is chosen stands in the address. */
export function Standings() {
  const all = useQuery(standingsQuery);
  const sets = useQuery(setsQuery).data ?? [];
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState("");
  if (all.isPending) return <Loading />;
  if (all.isError) return <Failed error={all.error} again={() => void all.refetch()} />;
  const shown = all.data.workloads.filter((one) => found(search, one.name, ...one.versions));
  const set = Number(params.get("set")) || null;
  const key = params.get("workload") ?? all.data.workloads[0]?.key;
  const choose = (changes: Record<string, string>) => {
    const next = new URLSearchParams(params);
    for (const [name, value] of Object.entries(changes)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: true });
  };
  return (
    <main className="p-5">
      {!key ? (
        <>
          <h1 className="font-serif text-title font-semibold">Standings</h1>
          <p className="mt-3 font-serif text-lead">
            {all.data.waiting > 0
              ? `The results of ${count(all.data.waiting, "test")} are being worked out.`
              : "No result yet. Results of every review come to stand here beside one another, as soon as passes count."}
          </p>
        </>
      ) : (
        <div className="grid gap-6 lg:grid-cols-[230px_minmax(0,1fr)]">
          <div>
            <Search value={search} onChange={setSearch} label="Search workloads" />
            <ul className="border-t border-line" aria-label="Workloads">
              {shown.map((one) => (
                <li key={one.key} className="border-b border-line">
                  <button
                    type="button"
                    aria-current={!set && one.key === key}
                    onClick={() => setParams({ workload: one.key })}
                    className={`block w-full px-2 py-1.5 text-left text-note hover:bg-band ${!set && one.key === key ? "border-l-3 border-mark bg-band" : ""}`}
                  >
                    <span className="font-semibold">{one.name}</span>
                    <span className="block text-small text-quiet">
                      {count(one.settings, "setting")} · {count(one.results, "result")}
                    </span>
                  </button>
                </li>
              ))}
            </ul>
            <SetList sets={sets} chosen={set} onChoose={(id) => setParams({ set: String(id) })} />
            <SavedList workload={key} />
            {!set && <Choices workload={key} params={params} choose={choose} />}
          </div>
          {set ? (
            <SetStanding key={set} id={set} params={params} choose={choose} />
          ) : (
            <Standing key={key} workload={key} params={params} choose={choose} />
          )}
        </div>
      )}
    </main>
  );
}

interface Props {
  workload: string;
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

function Standing({ workload, params, choose }: Props) {
  const as = params.get("as") ?? "";
  const may = useMay();
  const [keeping, setKeeping] = useState(false);
  const query = useQuery(standingQuery(workload, params));
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const standing = query.data;
  const metric = standing.all_metrics.find((one) => one.key === standing.metric);
  const settings = standing.all_settings.find((one) => one.key === standing.settings);
  const first = standing.rows[0];
  const apart = standing.count - standing.beside;
  const better = metric?.direction === "neither" ? "" : `, ${metric?.direction} is better`;
  return (
    <section aria-label={`${standing.name}, ${metric?.label ?? ""}`} className="min-w-0">
      <div className="mb-2 flex flex-wrap items-end justify-between gap-x-6 gap-y-2">
        <div>
          <h1 className="font-serif text-title font-semibold">
            {standing.name} · {metric?.label}
          </h1>
          <p className="text-note text-quiet">
            {[settings?.words, `${metric?.unit ?? ""}${better}`].filter(Boolean).join(" · ")} ·{" "}
            {count(standing.beside, "result")} of {count(standing.reviews, "review")} that may stand side by
            side
            {apart > 0 && `, ${apart} that may not`}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-4 text-note">
          {may("edit_workloads") && first && (
            <Button kind="link" onClick={() => setKeeping(true)}>
              keep in a set
            </Button>
          )}
          <Against standing={standing} choose={choose} />
          <div role="group" aria-label="Shown as" className="flex">
            {AS.map(([value, words]) => (
              <button
                key={value}
                type="button"
                aria-pressed={as === value}
                onClick={() => choose({ as: value })}
                className={`border border-ink px-2.5 py-1 not-first:border-l-0 ${as === value ? "bg-ink text-sheet" : "bg-sheet hover:bg-band"}`}
              >
                {words}
              </button>
            ))}
          </div>
        </div>
      </div>
      <Filters standing={standing} params={params} choose={choose} />
      {standing.waiting > 0 && (
        <p role="status" className="mb-2 text-note text-quiet">
          The results of {count(standing.waiting, "test")} are being worked out; they join when they are
          ready.
        </p>
      )}
      {as === "time" ? (
        <OverTime workload={workload} params={params} />
      ) : as === "price" ? (
        <ForPrice standing={standing} params={params} choose={choose} />
      ) : (
        <Ranked standing={standing} params={params} choose={choose} />
      )}
      {keeping && first && (
        <KeepInSet
          what={{ test: first.test, metric: standing.metric }}
          words={[standing.name, settings?.words, metric?.label].filter(Boolean).join(", ")}
          onClose={() => setKeeping(false)}
        />
      )}
    </section>
  );
}
