import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useState } from "react";
import { useParams } from "react-router";
import type { ColumnShape, Shapes } from "../api/client";
import { recordQuery, traceQuery, type Stretch } from "../api/queries";
import { axisReach } from "../sheets/matrix/axes";
import { VersusCell } from "../sheets/matrix/VersusCell";
import { Beyond } from "../sheets/Beyond";
import { DifferenceTable } from "../sheets/DifferenceTable";
import { Seal, sealLetter } from "../marks/Seal";
import { count } from "../marks/words";
import { Failed, Loading } from "../shell/States";

const Trace = lazy(() => import("../marks/trace/Trace").then((m) => ({ default: m.Trace })));

type Content = Shapes["RecordContent"];

/** A published record: readable by anybody, frozen, printable, with its data. */
export function RecordPage() {
  const { slug = "" } = useParams();
  const record = useQuery(recordQuery(slug));
  if (record.isPending) return <Loading />;
  if (record.isError) return <Failed error={record.error} again={() => void record.refetch()} />;
  const { content, edition, editions, change_note } = record.data;
  const { review, matrix } = content;
  const newest = editions[0];
  return (
    <main className="mx-auto max-w-[1200px] px-5 py-8">
      {newest && newest.edition > edition && (
        <p className="mb-4 border border-mark bg-sheet p-3" role="note">
          This is edition {edition}. There is a newer one:{" "}
          <a className="underline" href={`/records/${newest.slug}`}>
            edition {newest.edition}
          </a>
          {newest.change_note && ` (${newest.change_note})`}.
        </p>
      )}
      <h1 className="font-serif text-[30px] leading-tight font-semibold">{review.question}</h1>
      <p className="mt-2 text-note text-quiet">
        Edition {edition}, published{" "}
        {new Date(content.published_at).toLocaleDateString("en-GB", { dateStyle: "long" })} by{" "}
        {content.published_by}
        {change_note && ` · changed: ${change_note}`}
      </p>
      {review.verdict && (
        <section className="mt-6 max-w-[720px]" aria-label="Verdict">
          {review.verdict.split(/\n\n+/).map((paragraph) => (
            <p key={paragraph} className="mb-3 font-serif text-[18px]">
              {paragraph}
            </p>
          ))}
        </section>
      )}
      <Section title="Configurations">
        <DifferenceTable columns={review.columns} differences={review.differences} />
        <p className="mt-1 text-note text-quiet">
          Held constant: {review.constant}. Expected beforehand:{" "}
          {review.expectation || "nothing was written down."}
        </p>
        {[review.disclosure, ...(review.origins ?? [])].filter(Boolean).length > 0 && (
          <p className="mt-1 text-note text-quiet">
            Interests: {[review.disclosure, ...(review.origins ?? [])].filter(Boolean).join(" · ")}
          </p>
        )}
      </Section>
      <Section title="Against the baseline">
        <VersusTable content={content} />
        <p className="mt-1.5 text-note text-quiet">
          Shaded: differences within ±{matrix.margin_pct} % count as level. Bars: 95 % intervals that hold for
          all comparisons of a row together, from the pooled noise of its passes. 1 % low: {matrix.low_words}.
          More is always better; a time is shown as speed.
        </p>
      </Section>
      <Section title="Captures">
        <Captures content={content} slug={slug} />
      </Section>
      <Section title="Data">
        <p>
          <a className="underline" href={`/api/records/${slug}/figures.csv`} download>
            All figures as CSV
          </a>
          : {count(content.passes.length, "pass")}, {content.passes.filter((pass) => pass.set_aside).length}{" "}
          set aside. Every capture can be had as CSV above.
        </p>
      </Section>
    </main>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mt-7">
      <h2 className="mb-2 font-serif text-[19px] font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function VersusTable({ content }: { content: Content }) {
  const { review, matrix } = content;
  const reach = axisReach(matrix);
  return (
    <div className="overflow-x-auto">
      <table className="w-full min-w-[900px] table-fixed border-collapse bg-sheet">
        <colgroup>
          <col className="w-56" />
          {review.columns.map((column) => (
            <col key={column.id} className={column.id === matrix.baseline ? "w-52" : ""} />
          ))}
        </colgroup>
        <thead>
          <tr className="border border-line text-left text-note">
            <th scope="col" className="px-2.5 py-2">
              Test
            </th>
            {review.columns.map((column) => (
              <th scope="col" key={column.id} className="border-l border-line px-2.5 py-2 whitespace-nowrap">
                <Seal
                  position={column.position}
                  label={column.label}
                  baseline={column.id === matrix.baseline}
                  size={20}
                />{" "}
                {column.label}
                <Beyond review={review} column={column} baseline={matrix.baseline} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {matrix.rows.map((row) => {
            const test = review.tests.find((one) => one.id === row.test);
            return (
              <tr key={row.key} className="border border-line">
                <th scope="row" className="px-2.5 py-1 text-left">
                  <div className="text-note font-semibold">{test?.name}</div>
                  <div className="text-small font-normal text-quiet">
                    {test?.detail} · {row.label.split(",")[0]}
                  </div>
                </th>
                {review.columns.map((column) => {
                  const cell = row.cells[String(column.id)];
                  return (
                    <td key={column.id} className="border-l border-line px-2.5 py-1">
                      {cell ? (
                        <VersusCell
                          row={row}
                          cell={cell}
                          margin={matrix.margin_pct}
                          reach={reach}
                          isBaseline={column.id === matrix.baseline}
                        />
                      ) : (
                        <span className="text-note text-quiet">not run</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Every pass of the record, by cell; the one asked for is drawn. */
function Captures({ content, slug }: { content: Content; slug: string }) {
  const { review, passes } = content;
  const [shown, setShown] = useState(
    () => passes.find((pass) => pass.has_trace && !pass.set_aside)?.id ?? "",
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
          {pass.has_trace ? (
            <Suspense fallback={<Loading what="Drawing" />}>
              <RecordTrace slug={slug} pass={pass.id} column={column} />
            </Suspense>
          ) : (
            <p className="text-note text-quiet">
              {pass.outcome === "completed"
                ? "This pass has no frame times."
                : pass.outcome.replaceAll("_", " ")}
            </p>
          )}
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

function optionWords(content: Content, pass: Shapes["RecordPass"]): string {
  const test = content.review.tests.find((one) => one.id === pass.test);
  const column = content.review.columns.find((one) => one.id === pass.column);
  const state =
    pass.outcome !== "completed"
      ? `, ${pass.outcome.replaceAll("_", " ")}`
      : pass.set_aside
        ? ", set aside"
        : "";
  return `${test?.name}, ${test?.detail} · ${sealLetter(column?.position ?? 0)} ${column?.label} · pass ${pass.number}${state}`;
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
