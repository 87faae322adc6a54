import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { useMay } from "../../../api/session";
import { setQuery } from "../../../api/standings";
import { Button } from "../../../design/Button";
import { useAct } from "../../../design/useAct";
import { reachOf, VersusMark, verdictInk } from "../../../marks/VersusMark";
import { count, quantity } from "../../../marks/words";
import { History } from "../../../shell/History";
import { Failed, Loading } from "../../../shell/States";
import { dayWords } from "../day";
import { Paging } from "../Paging";
import { EditSet } from "./EditSet";
import { MeasureSet } from "./MeasureSet";

type Row = Shapes["SetRow"];

interface Props {
  id: number;
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

/** One ratio over all tests of a set, for every configuration that has them all. */
export function SetStanding({ id, params, choose }: Props) {
  const against = Number(params.get("against")) || null;
  const offset = Number(params.get("offset")) || 0;
  const query = useQuery(setQuery(id, against, offset));
  const may = useMay();
  const run = useAct();
  const [open, setOpen] = useState<"edit" | "measure" | null>(null);
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const set = query.data;
  const ranked = set.rows.filter((row) => row.place !== "left out");
  const apart = set.rows.filter((row) => row.place === "left out");
  const reach = reachOf(
    ranked.flatMap((row) => [Math.abs(row.better ?? 0), Math.abs(row.better_low ?? 0)]),
    100 * set.margin,
  );
  const last = set.latest === set.id;
  const path = `/api/test-sets/${set.id}/archive`;
  const archive = (into: boolean) =>
    void run(() => act(into ? "PUT" : "DELETE", path), {
      said: into ? `${set.name} is archived.` : `${set.name} is back.`,
      undo: () => act(into ? "DELETE" : "PUT", path),
      made: "standings",
    });
  return (
    <section aria-label={set.name} className="min-w-0">
      <div className="mb-2 flex flex-wrap items-end justify-between gap-x-6 gap-y-2">
        <div>
          <h1 className="font-serif text-title font-semibold">{set.name}</h1>
          <p className="text-note text-quiet">
            {count(set.items.length, "test")} · margin {quantity(100 * set.margin, 3)} % · edition{" "}
            {set.editions.length > 1 ? (
              <select
                aria-label="Edition"
                value={set.id}
                onChange={(event) => choose({ set: event.target.value, against: "", offset: "" })}
                className="border border-ink bg-sheet px-1"
              >
                {set.editions.map((one) => (
                  <option key={one.id} value={one.id}>
                    {one.edition}, {dayWords(one.made_at)}, {one.by}
                  </option>
                ))}
              </select>
            ) : (
              set.edition
            )}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-4 text-note">
          {set.reference !== null && (
            <label className="flex items-center gap-2">
              against
              <select
                value={set.reference ?? ""}
                onChange={(event) => choose({ against: event.target.value, offset: "" })}
                className="max-w-56 border border-ink bg-sheet px-2 py-1"
              >
                {!ranked.some((row) => row.configuration === set.reference) && (
                  <option value={set.reference ?? ""}>{set.reference_label}</option>
                )}
                {ranked.map((row) => (
                  <option key={row.configuration} value={row.configuration}>
                    {row.label}
                  </option>
                ))}
              </select>
            </label>
          )}
          {set.count > 0 && (
            <a
              href={`/api/test-sets/${set.id}/results.csv${set.reference === null ? "" : `?against=${set.reference}`}`}
              download
              className="underline"
            >
              CSV
            </a>
          )}
          {may("edit_review") && <Button onClick={() => setOpen("measure")}>Measure a machine</Button>}
          {may("edit_workloads") && last && <Button onClick={() => setOpen("edit")}>Edit</Button>}
          {may("edit_workloads") && last && (
            <Button onClick={() => archive(!set.archived)}>{set.archived ? "Bring back" : "Archive"}</Button>
          )}
          <History kind="test_set" id={set.id} name={set.name} />
        </div>
      </div>
      {set.note && <p className="mb-2 max-w-prose font-serif">{set.note}</p>}
      {set.waiting > 0 && (
        <p role="status" className="mb-2 text-note text-quiet">
          The results of {count(set.waiting, "test")} are being worked out; they join when they are ready.
        </p>
      )}
      <ol className="mb-3 list-decimal pl-5 text-note" aria-label="Tests of the set">
        {set.items.map((item) => (
          <li key={item.words}>
            {item.words}
            <span className="text-quiet">
              , version {item.version}
              {item.weight !== 1 && `, weight ${item.weight}`}
            </span>
          </li>
        ))}
      </ol>
      {set.count === 0 && (
        <p className="font-serif text-lead">No configuration has a result of these tests yet.</p>
      )}
      {ranked.length > 0 && <Ranks set={set} rows={ranked} reach={reach} />}
      {apart.length > 0 && (
        <section aria-label="Left out" className="mt-4">
          <h2 className="mb-1 text-note font-semibold">
            Left out, as they do not stand beside in every test
          </h2>
          <ul>
            {apart.map((row) => (
              <li key={row.configuration} className="border-b border-line px-2 py-1.5 text-note">
                <strong>{row.label}</strong>{" "}
                <span className="text-quiet">
                  {[lacksWords(row), ...row.apart].filter(Boolean).join(" · ") ||
                    "the reference lacks tests of the set"}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Paging offset={offset} count={set.count} page={50} choose={choose} />
      {open === "edit" && (
        <EditSet
          set={set}
          onSaved={(saved) => choose({ set: String(saved.id) })}
          onClose={() => setOpen(null)}
        />
      )}
      {open === "measure" && <MeasureSet set={set} onClose={() => setOpen(null)} />}
    </section>
  );
}

/** "lacks tests 2 and 3" */
function lacksWords({ missing }: Row): string {
  if (!missing.length) return "";
  const numbers = missing.map((at) => String(at + 1));
  const last = numbers.pop() ?? "";
  return `lacks ${missing.length === 1 ? "test" : "tests"} ${numbers.length ? `${numbers.join(", ")} and ` : ""}${last}`;
}

function Ranks({ set, rows, reach }: { set: Shapes["SetStanding"]; rows: Row[]; reach: number }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-t-2 border-ink text-left">
        <caption className="sr-only">{set.name}: configurations in order</caption>
        <thead className="text-small text-quiet">
          <tr>
            <th className="px-2 py-1 font-normal">configuration</th>
            <th className="px-2 py-1 font-normal">over all tests</th>
            <th className="px-2 py-1 font-normal">
              <span className="sr-only">mark</span>
            </th>
            {set.items.map((item, at) => (
              <th key={item.words} className="px-2 py-1 text-right font-normal" title={item.words}>
                {at + 1}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr
              key={row.configuration}
              className={`border-b border-line align-top ${row.place === "reference" ? "bg-band" : "bg-sheet"}`}
            >
              <th scope="row" className="px-2 py-1.5 font-semibold">
                {row.label}
                {row.place === "with a warning" && <Warnings row={row} set={set} />}
                {[...new Set(row.cells.flatMap((cell) => cell.measured_before))].map((words) => (
                  <span key={words} className="block text-small font-normal text-quiet">
                    {words}
                  </span>
                ))}
              </th>
              <td className="px-2 py-1.5 text-note whitespace-nowrap">
                {row.place === "reference" ? (
                  <span className="text-quiet">the reference</span>
                ) : (
                  <>
                    <strong className="text-body">{row.told.split(" (")[0]}</strong>
                    <span className="block text-small">
                      <span style={{ color: verdictInk(row.verdict) }}>{row.verdict}</span>
                      {row.told.includes("(") && (
                        <span className="text-quiet"> {row.told.split(" (")[1]?.replace(")", "")}</span>
                      )}
                    </span>
                  </>
                )}
              </td>
              <td className="px-2">
                {row.better !== null && (
                  <VersusMark
                    effect={row.better}
                    low={row.better_low}
                    high={row.better_high}
                    verdict={row.verdict}
                    margin={100 * set.margin}
                    reach={reach}
                    width={150}
                  />
                )}
              </td>
              {set.items.map((item, at) => {
                const cell = row.cells.find((one) => one.item === at);
                return (
                  <td key={item.words} className="px-2 py-1.5 text-right text-note whitespace-nowrap">
                    {cell && (
                      <Link
                        to={`/reviews/${cell.review}/matrix?test=${cell.test}&column=${cell.column}`}
                        className="no-underline hover:underline"
                        title={`${dayWords(cell.last_at)}, ${count(cell.n, "pass")}`}
                      >
                        {cell.told || "—"}
                        <span className="block text-small" style={{ color: verdictInk(cell.verdict) }}>
                          {cell.verdict === "no margin" ? "" : cell.verdict}
                        </span>
                        {(row.best === at || row.worst === at) && row.best !== row.worst && (
                          <span className="block text-small text-quiet">
                            {row.best === at ? "the best" : "the worst"}
                          </span>
                        )}
                      </Link>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Warnings({ row, set }: { row: Row; set: Shapes["SetStanding"] }) {
  const told = new Map<string, number[]>();
  for (const cell of row.cells)
    for (const why of cell.reasons) told.set(why.words, [...(told.get(why.words) ?? []), cell.item + 1]);
  return (
    <span className="block text-small font-normal text-mark">
      {[...told].map(([words, items]) => (
        <span key={words} className="block">
          <span aria-hidden="true">⚑ </span>
          {words}
          {items.length < set.items.length && `, in ${items.join(" and ")}`}
        </span>
      ))}
    </span>
  );
}
