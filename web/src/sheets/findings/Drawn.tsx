import { Link } from "react-router";
import type { Shapes } from "../../api/client";
import { useReview } from "../../api/review";
import { BandsChart } from "../../marks/BandsChart";
import { count } from "../../marks/words";

type Finding = Shapes["FindingShape"];

// So many cells are opened over one another at most.
const MOST_OPEN = 6;
// A longer table is opened on request.
const MOST_LINES = 14;

/** Where the cells that a finding rests on are opened in the matrix. */
export function cellsAddress(review: number, finding: Pick<Finding, "cells">): string {
  const cells = finding.cells.slice(0, MOST_OPEN).map((one) => `${one.test}.${one.metric}.${one.column}`);
  const lens = `/reviews/${review}/matrix?lens=versus`;
  return cells.length ? `${lens}&cells=${cells.join(",")}` : lens;
}

/** A finding at full size: drawn, as a table, with what it rests on and what is to be kept in mind. */
export function Drawn({ finding }: { finding: Finding }) {
  const review = useReview();
  const table = { columns: finding.heads, rows: finding.lines };
  const plain = !finding.bands.length || finding.lines.length <= MOST_LINES;
  return (
    <section
      aria-label="The finding"
      className="min-w-0 border-t-2 border-ink pt-2 lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-auto"
    >
      <h2 className="mb-2 font-semibold">{finding.kind_words}</h2>
      {finding.bands.length > 0 && (
        <BandsChart
          bands={finding.bands}
          margin={finding.margin_pct ?? 0}
          label={finding.sentence}
          caption={captionOf(finding)}
          table={plain ? undefined : table}
          chosen={finding.kind === "overall" ? finding.columns.at(-1) : undefined}
        />
      )}
      {plain && <Table {...table} />}
      <p className="mt-3 font-serif text-lead">{finding.sentence}</p>
      {finding.left_out.length > 0 && (
        <p className="mt-1 text-note text-quiet">Left out: {finding.left_out.join("; ")}.</p>
      )}
      {finding.caveats.map((words) => (
        <p key={words} className="mt-1 text-note">
          <span className="text-mark">⚑</span> {words}
        </p>
      ))}
      <p className="mt-1 text-note text-quiet">
        Rests on{" "}
        <Link to={cellsAddress(review.id, finding)} className="underline">
          {count(finding.cells.length, "cell")} of {count(finding.tests.length, "test")}
        </Link>
        , method {finding.section}.
      </p>
    </section>
  );
}

function captionOf(finding: Finding): string {
  const line = finding.kind === "sweep" ? " The line is the best level." : "";
  const rings = finding.bands.some((band) => band.dots.length) ? " Small rings: single tests." : "";
  return `Better is to the right.${line} Shaded: margin of ${finding.margin_pct} %. Bars: 95 % for all together.${rings}`;
}

function Table({ columns, rows }: { columns: string[]; rows: string[][] }) {
  return (
    <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="As a table">
      <table className="w-full border-collapse text-note">
        <thead>
          <tr className="border-b border-ink text-left">
            {columns.map((head) => (
              <th key={head} scope="col" className="py-1 pr-4">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, line) => (
            <tr key={line} className="border-b border-line align-top">
              {row.map((value, at) => (
                <td key={at} className="py-1 pr-4">
                  {value}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
