import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import type { Shapes } from "../../api/client";
import { cellQuery, traceQuery, type Stretch } from "../../api/queries";
import type { TracedCell } from "../../marks/overlay";
import { Trace } from "../../marks/trace/Trace";
import { hasTrace, shownPass } from "../../sheets/matrix/pane/chosen";
import { useLast, useSettled, useSteady } from "../../sheets/matrix/pane/useTraced";
import { Loading } from "../../shell/States";
import { titleOf } from "./Against";
import { dayWords } from "./day";

type Row = Shapes["StandingRow"];

/** The last pass that counts of each result, on one time axis, whichever reviews they are of. */
export function TraceOverlay({ rows }: { rows: Row[] }) {
  const [stretch, setStretch] = useState<Stretch | null>(null);
  const asked = useSettled(stretch);
  const details = useQueries({ queries: rows.map((row) => cellQuery(row.review, row.test, row.column)) });
  const passes = details.map(({ data }) => shownPass(data, undefined));
  const drawable = rows.flatMap((row, at) => {
    const pass = passes[at];
    return pass && hasTrace(pass) ? [{ row, pass, position: at }] : [];
  });
  const traced = useQueries({ queries: drawable.map(({ pass }) => traceQuery(pass.id, asked)) });
  const traces = useLast(
    drawable.map(({ pass }) => pass.id),
    traced.map((one) => one.data),
  );
  const cells: TracedCell[] = drawable.flatMap(({ row, pass, position }, at) => {
    const trace = traces[at];
    if (!trace) return [];
    const label = `${titleOf(row)}, ${dayWords(row.last_at)}`;
    const aside = pass.ranges.filter((one) => !one.back_at);
    return [
      {
        key: pass.id,
        position,
        label,
        number: pass.number,
        layer: 0,
        shift: 0,
        trace,
        marks: pass.marks,
        aside,
      },
    ];
  });
  const steady = useSteady(cells);
  const failed = [...details, ...traced].find((one) => one.isError);
  if (failed?.error) return <p className="text-mark">{failed.error.message}</p>;
  if (details.some((one) => one.isPending)) return <Loading what="Reading the passes" />;
  if (!drawable.length) {
    return <p className="font-serif text-quiet">None of them has a trace: their figures were typed in.</p>;
  }
  if (steady.length < drawable.length) return <Loading what="Reading the traces" />;
  return (
    <div>
      <Trace cells={steady} stretch={stretch} onStretch={setStretch} />
      {drawable.length < rows.length && (
        <p className="mt-1 text-note text-quiet">
          Without a trace:{" "}
          {rows
            .filter((row) => !drawable.some((one) => one.row === row))
            .map(titleOf)
            .join("; ")}
        </p>
      )}
    </div>
  );
}
