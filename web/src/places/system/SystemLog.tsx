import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Shapes } from "../../api/client";
import { systemLogQuery } from "../../api/queries";
import { When } from "../../design/When";
import { count } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";

type Logged = Shapes["LoggedPass"];

/** What happened on a system: what failed and what came of it, and visits that are over with their ticks. */
export function SystemLog({ system }: { system: number }) {
  const log = useQuery(systemLogQuery(system));
  if (log.isError) return <Failed error={log.error} again={() => void log.refetch()} />;
  if (!log.data) return <Loading what="Reading what happened on it" />;
  const { failures, visits } = log.data;
  return (
    <div className="mt-6 grid gap-6 border-t border-line pt-4 text-note lg:grid-cols-2">
      <section aria-label="What failed">
        <h2 className="mb-1 font-semibold">What failed on it</h2>
        {failures.length === 0 && <p className="text-quiet">Nothing so far.</p>}
        <ul>
          {failures.map((one) => (
            <li key={one.id} className="border-t border-line py-1">
              <strong>{one.outcome_words}</strong>
              {one.note && `: ${one.note}`}
              {one.action && ` · ${one.action}`}
              {one.fallback && ` · instead: ${one.fallback}`}
              <PassLine one={one} />
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Visits that are over">
        <h2 className="mb-1 font-semibold">Visits that are over</h2>
        {visits.length === 0 && <p className="text-quiet">None yet; a visit begins with a change.</p>}
        <ul>
          {visits.map((visit) => (
            <li key={visit.changeover} className="border-t border-line py-1">
              <details>
                <summary>
                  <strong>{visit.configuration}</strong>{" "}
                  <span className="text-quiet">
                    <When at={visit.done_at} />
                    {visit.by && `, ${visit.by}`}, {count(visit.passes.length, "pass")}
                  </span>
                </summary>
                <ul className="my-1 pl-4 text-small">
                  {visit.steps.map((step) => (
                    <li key={step.key}>
                      <span aria-hidden="true">{step.tick ? "✓" : "·"}</span> {step.words}
                      {step.tick && (
                        <span className="text-quiet">
                          {" "}
                          {step.tick.observed !== null && `read ${String(step.tick.observed)} ${step.unit}, `}
                          {step.tick.by}, <When at={step.tick.at} />
                        </span>
                      )}
                    </li>
                  ))}
                </ul>
                {visit.passes.map((one) => (
                  <PassLine key={one.id} one={one} />
                ))}
              </details>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

function PassLine({ one }: { one: Logged }) {
  return (
    <span className="block text-small text-quiet">
      <Link
        className="underline"
        to={`/reviews/${one.review}/matrix?lens=progress&cells=${one.test}.${one.metric}.${one.column}`}
      >
        {one.test_name} {one.detail}
      </Link>
      , {one.configuration}, pass {one.number}
      {one.set_aside && ", set aside"}, <When at={one.started_at} />
      {one.by && `, ${one.by}`}
      {one.helped_by && ` with ${one.helped_by}`}
    </span>
  );
}
