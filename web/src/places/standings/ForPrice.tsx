import { Link } from "react-router";
import type { Shapes } from "../../api/client";
import { figure, priceWords } from "../../marks/words";
import { titleOf } from "./Against";
import { dayWords } from "./day";

interface Props {
  standing: Shapes["StandingShape"];
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

const BASES = ["street", "paid", "list", "used", "lent"];

/** The results by what they give for the price, and those that cost less and give more than another. */
export function ForPrice({ standing, params, choose }: Props) {
  const then = params.get("prices") ?? "";
  const metric = standing.all_metrics.find((one) => one.key === standing.metric);
  const beside = standing.rows.filter((row) => row.place !== "not beside" && row.centre !== null);
  const priced = beside
    .filter((row) => row.price !== null)
    .sort((a, b) => (b.for_price ?? 0) - (a.for_price ?? 0) || (a.price ?? 0) - (b.price ?? 0));
  const without = beside.filter((row) => row.price === null);
  return (
    <>
      <p className="mb-2 flex flex-wrap items-baseline gap-4 text-note text-quiet">
        <label className="flex items-baseline gap-2">
          prices
          <select
            value={standing.price_basis}
            onChange={(event) => choose({ basis: event.target.value })}
            className="border border-ink bg-sheet px-1.5 py-0.5 text-ink"
          >
            {[...new Set([standing.price_basis, ...BASES])].filter(Boolean).map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </label>
        <label className="flex items-baseline gap-2">
          as they were
          <select
            value={then}
            onChange={(event) => choose({ prices: event.target.value })}
            className="border border-ink bg-sheet px-1.5 py-0.5 text-ink"
          >
            <option value="">last</option>
            <option value="then">on the day of each result</option>
          </select>
        </label>
        In euro. One is beaten by what costs no more and is ahead of it for certain.
      </p>
      {priced.length === 0 && <p className="font-serif text-lead">No configuration here has a price.</p>}
      <table className="w-full border-t-2 border-ink text-left text-note">
        <thead className="text-quiet">
          <tr className="border-b border-line">
            <th className="px-2 py-1 font-normal">result</th>
            <th className="px-2 py-1 text-right font-normal">price</th>
            <th className="px-2 py-1 text-right font-normal">{metric?.unit || "figure"}</th>
            {metric?.direction === "higher" && (
              <th className="px-2 py-1 text-right font-normal">{metric.unit || "of it"} for 100 €</th>
            )}
            <th className="px-2 py-1 font-normal">beaten by</th>
          </tr>
        </thead>
        <tbody>
          {priced.map((row) => {
            const [by, ...others] = row.beaten_by;
            return (
              <tr key={row.id} className="border-b border-line bg-sheet">
                <td className="px-2 py-1.5">
                  <strong>{titleOf(row)}</strong>
                  <Link
                    to={`/reviews/${row.review}/matrix`}
                    className="block text-small text-quiet no-underline hover:underline"
                  >
                    {row.question}, {dayWords(row.last_at)}
                  </Link>
                </td>
                <td className="px-2 py-1.5 text-right whitespace-nowrap">
                  {priceWords(row.price ?? 0)}
                  {row.priced_on && (
                    <span className="block text-small text-quiet">of {dayWords(row.priced_on)}</span>
                  )}
                </td>
                <td className="px-2 py-1.5 text-right">{figure(row.centre ?? 0)}</td>
                {metric?.direction === "higher" && (
                  <td className="px-2 py-1.5 text-right">
                    {row.for_price === null ? "—" : figure(row.for_price)}
                  </td>
                )}
                <td className="px-2 py-1.5">
                  {by ? `${by}${others.length ? ` and ${others.length} more` : ""}` : "nothing"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {without.length > 0 && (
        <p className="mt-3 text-note text-quiet">
          Without a price: {without.map((row) => `${titleOf(row)} (${row.no_price})`).join("; ")}.
        </p>
      )}
    </>
  );
}
