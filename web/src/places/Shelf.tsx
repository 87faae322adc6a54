import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import type { PartShape } from "../api/client";
import { catalogueQuery, partsQuery } from "../api/queries";
import { Button } from "../design/Button";
import { found, Search } from "../design/Search";
import { count, fixed, quantity } from "../marks/words";
import { Exchange } from "../shell/Exchange";
import { Failed, Loading } from "../shell/States";
import { NewPart } from "./shelf/NewPart";
import { PasteParts } from "./shelf/PasteParts";
import { PartPane } from "./shelf/PartPane";
import { useMay } from "../api/session";
import { ListHead } from "../design/ListHead";

/** Parts with their attributes and prices; the chosen one beside the list. */
export function Shelf() {
  const may = useMay();
  const [archived, setArchived] = useState(false);
  const parts = useQuery(partsQuery(archived));
  const catalogue = useQuery(catalogueQuery);
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState("");
  const [kind, setKind] = useState("");
  const [adding, setAdding] = useState(false);
  const [pasting, setPasting] = useState(false);
  if (parts.isError) return <Failed error={parts.error} again={() => void parts.refetch()} />;
  if (!parts.data || !catalogue.data) return <Loading />;
  const edits = may("edit_shelf");
  const shown = parts.data.filter(
    (part) =>
      (!kind || part.kind === kind) &&
      found(search, part.name, part.kind_label, part.note, ...facts(part).map((fact) => fact)),
  );
  const chosen = parts.data.find((part) => part.id === Number(params.get("part")));
  const choose = (part: number | null) => setParams(part ? { part: String(part) } : {}, { replace: true });
  return (
    <main className="flex flex-1 gap-6 p-5">
      <div className="min-w-0 flex-1">
        <ListHead title="Shelf" adds="Add a part" onAdd={edits ? () => setAdding(true) : undefined}>
          {edits && <Button onClick={() => setPasting(true)}>Paste several</Button>}
          <Exchange path="/api/parts" made="shelf" may={edits} />
        </ListHead>
        <Search value={search} onChange={setSearch} label="Search the shelf">
          <select
            aria-label="Kind"
            value={kind}
            onChange={(event) => setKind(event.target.value)}
            className="border border-ink bg-sheet px-2 py-1"
          >
            <option value="">every kind</option>
            {catalogue.data.kinds.map((one) => (
              <option key={one.key} value={one.key}>
                {one.label}
              </option>
            ))}
          </select>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={archived}
              onChange={(event) => setArchived(event.target.checked)}
            />
            archived too
          </label>
          <span className="text-quiet" role="status">
            {count(shown.length, "part")}
          </span>
        </Search>
        {parts.data.length === 0 && (
          <p className="font-serif text-lead">The shelf is empty. Add a part, or import a list of them.</p>
        )}
        <table className="w-full border-collapse bg-sheet text-note">
          <thead>
            <tr className="border border-line text-left">
              {["Part", "Kind", "What it is", "Last price", "Fitted in"].map((words) => (
                <th key={words} scope="col" className="px-3 py-1.5">
                  {words}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((part) => (
              <tr
                key={part.id}
                className={`border border-line align-top ${part.id === chosen?.id ? "bg-band" : "hover:bg-band/50"}`}
              >
                <td className="px-3 py-1.5">
                  <button
                    type="button"
                    className="text-left font-semibold underline decoration-line hover:decoration-ink"
                    aria-current={part.id === chosen?.id}
                    onClick={() => choose(part.id)}
                  >
                    {part.name}
                  </button>
                  {part.archived_at && <span className="text-quiet"> (archived)</span>}
                </td>
                <td className="px-3 py-1.5 text-quiet">{part.kind_label}</td>
                <td className="px-3 py-1.5">{facts(part).slice(0, 4).join(" · ")}</td>
                <td className="px-3 py-1.5 whitespace-nowrap">
                  {part.prices[0] ? (
                    `${fixed(part.prices[0].amount, 2)} ${part.prices[0].currency}, ${part.prices[0].basis}`
                  ) : (
                    <span className="text-quiet">not known</span>
                  )}
                </td>
                <td className="px-3 py-1.5 text-quiet">
                  {part.used_in.length ? count(part.used_in.length, "configuration") : "nothing"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {parts.data.length > 0 && shown.length === 0 && (
          <p className="mt-3 text-quiet">Nothing on the shelf fits.</p>
        )}
      </div>
      {chosen && (
        <PartPane
          key={chosen.id}
          part={chosen}
          catalogue={catalogue.data}
          may={edits}
          onClose={() => choose(null)}
          onChoose={choose}
        />
      )}
      {pasting && (
        <PasteParts catalogue={catalogue.data} kind={kind || "storage"} onClose={() => setPasting(false)} />
      )}
      {adding && <NewPart catalogue={catalogue.data} onClose={() => setAdding(false)} onMade={choose} />}
    </main>
  );
}

/** A part's known attributes in words. */
export function facts(part: PartShape): string[] {
  return part.attributes
    .filter((one) => one.value !== null && one.value !== false)
    .map((one) => {
      if (one.value === true) return one.label;
      const value = typeof one.value === "number" ? quantity(one.value) : String(one.value);
      return one.unit ? `${value} ${one.unit}` : `${one.label} ${value}`;
    });
}
