import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { findingsQuery, hypothesesQuery, verdictQuery } from "../api/queries";
import { useReview } from "../api/review";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { When } from "../design/When";
import { Failed, Loading } from "../shell/States";
import { Expectations } from "./brief/Expectations";
import type { Finding } from "./findings/listed";
import { AnswerLine } from "./verdict/AnswerLine";
import { Editions } from "./verdict/Editions";
import { EditUse } from "./verdict/EditUse";
import { MetricNotes } from "./verdict/MetricNotes";
import { OpenPoints } from "./verdict/OpenPoints";
import { PinnedList } from "./verdict/PinnedList";
import { Revisions } from "./verdict/Revisions";
import { Signatures } from "./verdict/Signatures";
import { UseSection } from "./verdict/UseSection";
import { usesIn, type Use } from "./verdict/verdict";

const EMPTY: Omit<Use, "key"> = {
  name: "",
  outcome: "",
  judged: [],
  conditions: { settings: "", room: "", workload: "", basis: "" },
  text: "",
};

/** What the editor concludes, sentence by sentence held against the data; what is open, who signed, what went out. */
export function Verdict() {
  const review = useReview();
  const may = useMay();
  const query = useQuery(verdictQuery(review.id));
  const findings = useQuery(findingsQuery(review.id));
  const hypotheses = useQuery(hypothesesQuery(review.id));
  const [adding, setAdding] = useState<Use | null>(null);
  const [comparing, setComparing] = useState(false);
  const [explaining, setExplaining] = useState(false);
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!query.data) return <Loading what="Holding the text against the data" />;
  const verdict = query.data;
  const all = findings.data?.findings ?? [];
  const byKey = new Map<string, Finding>(all.map((one) => [one.key, one]));
  const byNumber = new Map<number, Finding>(all.flatMap((one) => (one.pin ? [[one.pin.number, one]] : [])));
  const explained = hypotheses.data ?? [];
  return (
    <main className="grid gap-x-7 gap-y-6 p-5 lg:grid-cols-[minmax(0,1fr)_322px]">
      <div className="min-w-0">
        <AnswerLine verdict={verdict} findings={byNumber} byKey={byKey} />
        {usesIn(verdict).map((use) => (
          <UseSection key={use.key} use={use} verdict={verdict} findings={byNumber} byKey={byKey} />
        ))}
        {adding && (
          <section className="border-t-2 border-ink pt-2.5 pb-3" aria-label="A new use">
            <EditUse use={adding} verdict={verdict} byKey={byKey} onClose={() => setAdding(null)} />
          </section>
        )}
        {!verdict.uses.length && !adding && (
          <p className="border-t-2 border-ink pt-3 text-note text-quiet">
            Then by use: for whom, which configurations are advised and which are not, and why. A negative
            verdict and “cannot be told” are answers too.
          </p>
        )}
        <p className="mt-3 flex flex-wrap items-baseline gap-3 print:hidden">
          {may("edit_review") && !adding && (
            <Button onClick={() => setAdding({ key: newKey(), ...EMPTY })}>
              {verdict.uses.length ? "Another use" : "Write the verdict"}
            </Button>
          )}
          {verdict.revisions > 1 && (
            <Button kind="link" className="text-note" onClick={() => setComparing(true)}>
              Earlier versions
            </Button>
          )}
          <Button kind="link" className="text-note" onClick={() => setExplaining(true)}>
            What the metrics mean, for readers
          </Button>
          <span className="text-small text-quiet">
            {verdict.edited_at && (
              <>
                last written{verdict.edited_by && ` by ${verdict.edited_by}`} <When at={verdict.edited_at} />{" "}
                ·{" "}
              </>
            )}
            figures that come from a finding follow it until it is published. The check reads words and
            numbers; it is a help, and blocks nothing.
          </span>
        </p>
        {explained.length > 0 && (
          <section aria-label="Explanations" className="mt-5">
            <h2 className="border-b border-line pb-1.5 text-body font-semibold">Explanations</h2>
            <ul className="text-note">
              {explained.map((one) => (
                <li key={one.id} className="border-b border-line py-1.5">
                  <span className={one.status === "refuted" ? "line-through" : ""}>{one.words}</span>:{" "}
                  <strong>{one.status}</strong>
                  {one.grounds && <span className="text-quiet"> · {one.grounds}</span>}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
      <aside className="border-ink lg:border-l-2 lg:pl-5">
        <PinnedList findings={all} />
        {review.expectations.length > 0 && (
          <section aria-label="Expected" className="mt-5">
            <h2 className="mb-1 border-b border-line pb-1.5 text-body font-semibold">Expected</h2>
            <Expectations />
          </section>
        )}
        <OpenPoints verdict={verdict} />
        <Signatures verdict={verdict} />
        <Editions verdict={verdict} />
      </aside>
      {explaining && <MetricNotes onClose={() => setExplaining(false)} />}
      {comparing && <Revisions onClose={() => setComparing(false)} />}
    </main>
  );
}

function newKey(): string {
  return `use-${Math.random().toString(16).slice(2, 10)}`;
}
