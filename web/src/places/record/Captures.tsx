import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { ColumnShape, Shapes } from "../../api/client";
import { traceQuery, type Stretch } from "../../api/queries";
import { Seal, sealLetter } from "../../marks/Seal";
import { figure } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";
import { later } from "../../design/later";

const Trace = later(
  () => import("../../marks/trace/Trace").then((m) => m.Trace),
  () => <Loading what="Drawing" />,
);

type Content = Shapes["RecordContent"];

/** Every pass of the record, by cell; the one asked for is drawn. */
export function Captures({ content, slug }: { content: Content; slug: string }) {
  const { review, passes } = content;
  const [shown, setShown] = useState(
    () => (passes.find((pass) => pass.has_trace && !pass.set_aside) ?? passes[0])?.id ?? "",
  );
  const pass = passes.find((one) => one.id === shown);
  const column = review.columns.find((one) => one.id === pass?.column);
  const test = review.tests.find((one) => one.id === pass?.test);
  if (!passes.length) return <p>No pass.</p>;
  return (
    <>
      <label className="no-print mb-3 block text-note">
        Pass shown{" "}
        <select
          className="border border-ink bg-sheet px-1 py-0.5"
          value={shown}
          onChange={(event) => setShown(event.target.value)}
        >
          {passes.map((one) => (
            <option key={one.id} value={one.id}>
              {optionWords(content, one)}
            </option>
          ))}
        </select>
      </label>
      {pass && column && (
        <>
          <h3 className="mb-1 flex items-center gap-2 text-note font-semibold">
            {test?.name}, {test?.detail}, pass {pass.number} on{" "}
            <Seal position={column.position} label={column.label} size={18} /> {column.label}
          </h3>
          {pass.set_aside && <p className="text-note">Set aside: {pass.reason}</p>}
          {handsWords(pass) && <p className="text-note text-quiet">{handsWords(pass)}</p>}
          {pass.has_trace ? (
            <RecordTrace slug={slug} pass={pass.id} column={column} />
          ) : (
            <p className="text-note text-quiet">
              {pass.outcome === "completed" ? "This pass has no frame times." : pass.outcome_words}
            </p>
          )}
          <Noted pass={pass} slug={slug} />
          <ul className="mt-2 flex flex-wrap gap-x-4 text-note">
            {pass.captures.map((capture) => (
              <li key={capture.id}>
                <a className="underline" href={`/api/records/${slug}/captures/${capture.id}.csv`} download>
                  {capture.name}
                </a>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}

/** Whose hands a pass was in, why it ended as it did, what was done about it, and what ran instead. */
export function handsWords(
  pass: Pick<Shapes["RecordPass"], "by" | "helped_by" | "typed_by" | "note" | "action" | "fallback">,
): string {
  return [
    pass.by && `run by ${pass.by}${pass.helped_by ? ` with ${pass.helped_by}` : ""}`,
    pass.typed_by && pass.typed_by !== pass.by && `typed by ${pass.typed_by}`,
    pass.note,
    pass.action && `then: ${pass.action}`,
    pass.fallback && `instead: ${pass.fallback}`,
  ]
    .filter(Boolean)
    .join(" · ");
}

function optionWords(content: Content, pass: Shapes["RecordPass"]): string {
  const test = content.review.tests.find((one) => one.id === pass.test);
  const column = content.review.columns.find((one) => one.id === pass.column);
  const state =
    pass.outcome !== "completed" ? `, ${pass.outcome_words}` : pass.set_aside ? ", set aside" : "";
  return `${test?.name}, ${test?.detail} · ${sealLetter(column?.position ?? 0)} ${column?.label} · pass ${pass.number}${state}`;
}

/** What was noted on a pass: marks, impressions and pictures. */
function Noted({ pass, slug }: { pass: Shapes["RecordPass"]; slug: string }) {
  if (!pass.marks.length && !pass.pictures.length) return null;
  const at = (from: number, to: number | null) =>
    to === null ? `at ${figure(from)} s` : `${figure(from)} to ${figure(to)} s`;
  return (
    <>
      <ul className="mt-2 text-note">
        {pass.marks.map((mark) => (
          <li key={`${mark.label} ${mark.start_s}`}>
            {mark.label}
            {mark.grade && `: ${mark.grade}`}, {at(mark.start_s, mark.end_s)}
            {mark.words && `: ${mark.words}`}
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap gap-3">
        {pass.pictures.map((picture) => (
          <figure key={picture.id} className="max-w-64">
            <a href={`/api/records/${slug}/pictures/${picture.id}`}>
              <img
                src={`/api/records/${slug}/pictures/${picture.id}?small`}
                alt={picture.caption || "picture of the pass"}
              />
            </a>
            <figcaption className="text-small text-quiet">{picture.caption}</figcaption>
          </figure>
        ))}
      </div>
    </>
  );
}

function RecordTrace({ slug, pass, column }: { slug: string; pass: string; column: ColumnShape }) {
  const [stretch, setStretch] = useState<Stretch | null>(null);
  const trace = useQuery(traceQuery(pass, stretch, slug));
  const { position, label } = column;
  const cells = useMemo(
    () =>
      trace.data ? [{ key: pass, number: 0, layer: 0, shift: 0, position, label, trace: trace.data }] : [],
    [pass, position, label, trace.data],
  );
  if (trace.isPending) return <Loading what="Reading the trace" />;
  if (trace.isError) return <Failed error={trace.error} again={() => void trace.refetch()} />;
  return <Trace cells={cells} stretch={stretch} onStretch={setStretch} />;
}
