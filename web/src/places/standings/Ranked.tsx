import { useState } from "react";
import { Link } from "react-router";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { figure } from "../../marks/words";
import { reachOf, VersusMark, verdictInk } from "../../marks/VersusMark";
import { Loading } from "../../shell/States";
import { titleOf } from "./Against";
import { dayWords } from "./day";
import { Paging } from "./Paging";
import { later } from "../../design/later";

type Row = Shapes["StandingRow"];

interface Props {
  standing: Shapes["StandingShape"];
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

const TraceOverlay = later(
  () => import("./TraceOverlay").then((m) => m.TraceOverlay),
  () => <Loading what="Opening the traces" />,
);

const MOST_TRACES = 6;

/** The results in order, each against the reference; below them those that may not stand beside it. */
export function Ranked({ standing, params, choose }: Props) {
  const [picked, setPicked] = useState<string[]>([]);
  const [traces, setTraces] = useState(false);
  const metric = standing.all_metrics.find((one) => one.key === standing.metric);
  const margin = standing.margin_pct ?? 0;
  const beside = standing.rows.filter((row) => row.place !== "not beside");
  const apart = standing.rows.filter((row) => row.place === "not beside");
  const reach = reachOf(
    beside.map((row) => Math.max(Math.abs(row.better ?? 0), Math.abs(row.better_low ?? 0))),
    margin || 1,
  );
  const pick = (id: string) =>
    setPicked((all) => (all.includes(id) ? all.filter((one) => one !== id) : [...all, id]));
  const sentences = standing.rows.filter((row) => picked.includes(row.id));
  const offset = Number(params.get("offset") ?? 0);
  return (
    <>
      <table className="w-full border-t-2 border-ink text-left">
        <caption className="sr-only">
          {standing.name}, {metric?.label}: results in order
        </caption>
        <thead className="sr-only">
          <tr>
            <th>Say in a sentence</th>
            <th>Result</th>
            <th>Day</th>
            <th>Figure</th>
            <th>Passes</th>
            <th>Against the reference</th>
            <th>Change</th>
            <th>Why with a warning</th>
          </tr>
        </thead>
        <tbody>
          {beside.map((row) => (
            <tr
              key={row.id}
              className={`border-b border-line align-top ${row.place === "reference" ? "bg-band" : "bg-sheet"}`}
            >
              <td className="py-2 pl-2">
                <input
                  type="checkbox"
                  aria-label={`Say ${titleOf(row)} of ${dayWords(row.last_at)} in a sentence`}
                  checked={picked.includes(row.id)}
                  onChange={() => pick(row.id)}
                />
              </td>
              <td className="px-2 py-1.5">
                <Title row={row} />
              </td>
              <td className="px-2 py-2 text-note whitespace-nowrap text-quiet">{dayWords(row.last_at)}</td>
              <td className="px-2 py-1.5 text-right whitespace-nowrap">
                <strong>{row.centre === null ? "—" : figure(row.centre)}</strong>
                {row.half !== null && <span className="text-small text-quiet"> ± {figure(row.half, 2)}</span>}
              </td>
              <td className="px-2 py-2 text-note whitespace-nowrap text-quiet">
                {row.n} {row.n === 1 ? "pass" : "passes"}
              </td>
              <td className="px-2">
                {row.better !== null && (
                  <VersusMark
                    effect={row.better}
                    low={row.better_low}
                    high={row.better_high}
                    verdict={row.verdict}
                    margin={margin}
                    reach={reach}
                    width={170}
                  />
                )}
                {row.place === "reference" && (
                  <span className="inline-block py-2 text-note text-quiet">the reference</span>
                )}
              </td>
              <td className="px-2 py-2 text-note whitespace-nowrap">
                {row.told}
                {row.verdict && row.verdict !== "no margin" && (
                  <span className="block text-small" style={{ color: verdictInk(row.verdict) }}>
                    {row.verdict}
                  </span>
                )}
              </td>
              <td className="px-2 py-2 text-small text-mark">
                <Reasons row={row} />
                {row.measured_before.map((words) => (
                  <span key={words} className="block text-quiet">
                    {words}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {apart.length > 0 && (
        <section aria-label="May not stand beside it" className="mt-4">
          <h2 className="mb-1 text-note font-semibold">May not stand beside it</h2>
          <ul>
            {apart.map((row) => (
              <li
                key={row.id}
                className="grid grid-cols-[minmax(0,2fr)_90px_90px_minmax(0,3fr)] gap-3 border-b border-line px-2 py-1.5"
              >
                <Title row={row} />
                <span className="text-note text-quiet">{dayWords(row.last_at)}</span>
                <span className="text-right text-note">{row.centre === null ? "—" : figure(row.centre)}</span>
                <span className="text-note">{row.reasons.map((one) => one.words).join("; ")}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Paging offset={offset} count={standing.count} page={100} choose={choose} />
      {sentences.length > 0 && (
        <section aria-label="In sentences" className="mt-5">
          {sentences.map((row) => (
            <p key={row.id} className="font-serif text-lead">
              {row.place === "reference" ? `${titleOf(row)} is what they are held against.` : row.sentence}{" "}
              {row.reasons.length > 0 && (
                <span className="text-quiet">{row.reasons.map((one) => one.words).join("; ")}.</span>
              )}
            </p>
          ))}
          <p className="mt-2 text-note">
            <Button aria-expanded={traces} onClick={() => setTraces(!traces)}>
              {traces ? "Without their traces" : "Their traces over one another"}
            </Button>
            {sentences.length > MOST_TRACES && (
              <span className="pl-3 text-quiet">the first {MOST_TRACES} of them</span>
            )}
          </p>
          {traces && <TraceOverlay rows={sentences.slice(0, MOST_TRACES)} />}
        </section>
      )}
    </>
  );
}

function Title({ row }: { row: Row }) {
  return (
    <>
      <span className="block font-semibold">{titleOf(row)}</span>
      <Link
        to={`/reviews/${row.review}/matrix?test=${row.test}&column=${row.column}`}
        className="block text-small text-quiet no-underline hover:underline"
      >
        {row.question}
      </Link>
    </>
  );
}

function Reasons({ row }: { row: Row }) {
  if (!row.reasons.length) return null;
  return (
    <ul>
      {row.reasons.map((one) => (
        <li key={one.words}>
          <span aria-hidden="true">⚑ </span>
          {one.words}
        </li>
      ))}
    </ul>
  );
}
