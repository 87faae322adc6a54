import { LANGUAGE } from "../../design/language";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { bookQuery } from "../../api/standings";
import { bare, figure } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";
import { dayWords } from "../standings/day";
import { warmthUnit } from "../../design/writing";

const KINDS: Record<string, string> = {
  session: "passes",
  failed: "failed",
  changed: "changed over",
  update: "updated",
  act: "set up",
};

/** All that happened to a machine, and how warm it ran over the months. */
export function Book({ system }: { system: number }) {
  const query = useQuery(bookQuery(system));
  const [kind, setKind] = useState("");
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!query.data) return <Loading what="Reading its book" />;
  const { entries, months, more } = query.data;
  const shown = entries.filter((one) => !kind || one.kind === kind);
  const worn = [...new Set(months.flatMap((one) => one.wear.map((wear) => wear.name)))];
  const there = Object.keys(KINDS).filter((one) => entries.some((entry) => entry.kind === one));
  return (
    <section aria-label="Its book" className="mt-6 border-t border-line pt-4">
      <div className="mb-2 flex flex-wrap items-baseline gap-4">
        <h2 className="font-serif text-lead font-semibold">Its book</h2>
        <div role="group" aria-label="Only" className="flex gap-3 text-note">
          {["", ...there].map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={kind === one}
              onClick={() => setKind(one)}
              className={kind === one ? "font-semibold underline" : "text-quiet hover:underline"}
            >
              {one ? KINDS[one] : "everything"}
            </button>
          ))}
        </div>
      </div>
      {months.length > 0 && (
        <table className="mb-3 text-note">
          <caption className="sr-only">How warm it ran</caption>
          <thead className="text-left text-quiet">
            <tr>
              <th className="pr-6 font-normal">month</th>
              <th className="pr-6 text-right font-normal">passes</th>
              <th className="pr-6 text-right font-normal">usual peak in {warmthUnit("°C")}</th>
              <th className="text-right font-normal">highest</th>
              {worn.map((name) => (
                <th key={name} className="pl-6 text-right font-normal">
                  {name} in %
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {months.map((one) => (
              <tr key={one.month}>
                <td className="pr-6">{one.month}</td>
                <td className="pr-6 text-right">{one.passes}</td>
                <td className="pr-6 text-right">
                  {one.median_c === null ? "not told" : bare(one.median_c, "°C")}
                </td>
                <td className="text-right">{one.highest_c === null ? "" : bare(one.highest_c, "°C")}</td>
                {worn.map((name) => {
                  const told = one.wear.find((wear) => wear.name === name);
                  return (
                    <td key={name} className="pl-6 text-right">
                      {told && figure(told.percent)}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {shown.length === 0 && <p className="text-note text-quiet">Nothing has happened to it yet.</p>}
      <ol className="border-t border-line text-note">
        {shown.map((one) => (
          <li
            key={`${one.at} ${one.kind} ${one.words}`}
            className="grid grid-cols-[92px_92px_minmax(0,1fr)] gap-3 border-b border-line py-1.5"
          >
            <time dateTime={one.at} title={new Date(one.at).toLocaleString(LANGUAGE)} className="text-quiet">
              {dayWords(one.at)}
            </time>
            <span className={one.kind === "failed" || one.kind === "update" ? "text-mark" : "text-quiet"}>
              {KINDS[one.kind]}
            </span>
            <span>
              {one.review === null ? (
                one.words
              ) : (
                <Link to={`/reviews/${one.review}/matrix`} className="no-underline hover:underline">
                  {one.words}
                </Link>
              )}
              {one.by && <span className="text-quiet"> · {one.by}</span>}
            </span>
          </li>
        ))}
      </ol>
      {more && <p className="mt-2 text-note text-quiet">What lies further back is left out here.</p>}
    </section>
  );
}
