import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { bringRecord, act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { foreignQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { count, unbroken } from "../../marks/words";
import { Failed } from "../../shell/States";

/** Records that others have measured and published, brought in by their packages: to be read, and no more. */
export function FromElsewhere({ may }: { may: boolean }) {
  const records = useQuery(foreignQuery);
  const picker = useRef<HTMLInputElement>(null);
  const run = useAct();
  const bring = async (file: File | undefined) => {
    if (!file) return;
    await run(() => bringRecord(file), {
      said: "The package is brought in. It is checked figure by figure before it can be read.",
      made: "foreign",
    });
  };
  if (records.isError) {
    return <Failed error={records.error} again={() => void records.refetch()} />;
  }
  if (!records.data || (!records.data.length && !may)) return null;
  return (
    <section aria-label="From elsewhere" className="mt-8">
      <div className="mb-2 flex flex-wrap items-baseline gap-4">
        <h2 className="font-serif text-lead font-semibold">From elsewhere</h2>
        <p className="text-note text-quiet">
          {records.data.length
            ? "Measured and published by others; read here, and part of no comparison."
            : "Records of others can be read here: bring in the data package of one."}
        </p>
        {may && (
          <span className="ml-auto">
            <Button onClick={() => picker.current?.click()}>Bring a record in</Button>
            <input
              ref={picker}
              type="file"
              accept=".zip,application/zip"
              className="hidden"
              aria-label="Data package of a record"
              onChange={(event) => {
                void bring(event.target.files?.[0]);
                event.target.value = "";
              }}
            />
          </span>
        )}
      </div>
      {records.data.length > 0 && (
        <ol className="border-t border-line">
          {records.data.map((record) => (
            <Foreign key={record.id} record={record} may={may} />
          ))}
        </ol>
      )}
    </section>
  );
}

function Foreign({ record, may }: { record: Shapes["ForeignShape"]; may: boolean }) {
  const run = useAct();
  const remove = () =>
    run(() => act("DELETE", `/api/foreign/${record.id}`), {
      said: "Taken off the list. Bringing its package in again puts it back.",
      made: "foreign",
    });
  const title = record.question || "A package without a question";
  return (
    <li className="border-b border-line py-3">
      <div className="flex items-baseline justify-between gap-6">
        {record.state === "ready" ? (
          <a
            href={`/foreign/${record.id}`}
            className="font-serif text-lead font-semibold no-underline hover:underline"
          >
            {title}
          </a>
        ) : (
          <span className="font-serif text-lead">{title}</span>
        )}
        <span className="text-note whitespace-nowrap text-quiet">
          {record.state === "ready" && `edition ${record.edition}`}
          {record.state === "checking" && "being checked"}
          {record.state === "refused" && <strong className="text-ink">not taken</strong>}
          {may && record.state !== "checking" && (
            <button
              type="button"
              className="ml-3 underline decoration-line"
              aria-label={`Take off the list: ${title}`}
              onClick={() => void remove()}
            >
              take off
            </button>
          )}
        </span>
      </div>
      {record.answer && <p className="mt-0.5 font-serif">{unbroken(record.answer)}</p>}
      {record.problem && (
        <p role="alert" className="mt-0.5 text-note wrap-anywhere">
          {record.problem}
        </p>
      )}
      <p className="mt-1 flex flex-wrap gap-x-4 text-note text-quiet">
        {record.state === "ready" && (
          <>
            <span>
              published by {record.published_by}, {record.published_at}
            </span>
            <span className="text-ink">{record.columns.join(", ")}</span>
            <span>{count(record.tests, "test")}</span>
            <span>{record.checked} figures and comparisons agree</span>
          </>
        )}
        {record.origin && (
          <a href={record.origin} rel="noopener noreferrer" className="wrap-anywhere">
            {new URL(record.origin).host}
          </a>
        )}
        <span>
          brought in by {record.brought_by} <When at={record.brought_at} />
        </span>
      </p>
    </li>
  );
}
