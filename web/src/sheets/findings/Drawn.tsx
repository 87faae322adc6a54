import { useRef, useState } from "react";
import { Link } from "react-router";
import { api } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { useMeasuredBefore } from "../../api/measuredBefore";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { BandsChart } from "../../marks/BandsChart";
import { CurvesChart } from "../../marks/CurvesChart";
import { ExtentsChart } from "../../marks/ExtentsChart";
import { framedSvg } from "../../marks/picture";
import { anchor } from "../../help/anchor";
import { count, unbroken } from "../../marks/words";
import { SavePicture } from "../matrix/SavePicture";
import { Acts } from "./Acts";
import type { Finding } from "./listed";
import { useTalking } from "../../talk/talking";
import { PinOf } from "./PinOf";
import type { Pins } from "./usePins";

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
export function Drawn({ finding, pins }: { finding: Finding; pins: Pins }) {
  const review = useReview();
  const may = useMay();
  const act = useAct();
  const before = useMeasuredBefore()(finding.cells);
  const talking = useTalking();
  const chart = useRef<HTMLDivElement>(null);
  const table = { columns: finding.heads, rows: finding.lines };
  const drawn = Boolean(finding.bands.length || finding.curves || finding.extents);
  const plain = !drawn || finding.lines.length <= MOST_LINES;
  const name = `${review.key}-${finding.kind}`;
  const picture = () => {
    const svg = chart.current?.querySelector("svg");
    return svg ? framedSvg(svg, captionOf(finding, review)) : null;
  };
  const takeAway = () =>
    act(
      async () =>
        api.DELETE("/api/drawn-findings/{drawn}", { params: { path: { drawn: finding.drawn ?? 0 } } }),
      { said: "Taken out of the list.", made: "findings" },
    );
  return (
    <section
      aria-label="The finding"
      className="min-w-0 border-t-2 border-ink pt-2 lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-auto"
    >
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4">
        <h2 className="font-semibold">{finding.kind_words}</h2>
        <span className="ml-auto flex gap-4 text-note print:hidden">
          <Button
            kind="link"
            onClick={() => talking?.open({ about: "finding", key: finding.key, words: finding.sentence })}
          >
            Talk
          </Button>
          {drawn && <SavePicture svg={picture} name={name} />}
          <a
            className="underline"
            href={`/api/reviews/${review.id}/findings/${encodeURIComponent(finding.key)}.csv`}
            download
          >
            CSV
          </a>
          {finding.lines.length > 0 && (
            <Button
              kind="link"
              onClick={() =>
                void act(async () => navigator.clipboard.writeText(pastable(table)).then(() => true), {
                  said: "The table is copied; it can be pasted into a spreadsheet.",
                })
              }
            >
              Copy the table
            </Button>
          )}
          {finding.drawn !== null && may("edit_review") && (
            <Button kind="link" onClick={() => void takeAway()}>
              Take away
            </Button>
          )}
        </span>
      </div>
      <div ref={chart}>
        <Charts finding={finding} table={plain ? undefined : table} />
      </div>
      {plain && finding.lines.length > 0 && <Table {...table} />}
      <p className="mt-3 font-serif text-lead">{unbroken(finding.sentence)}</p>
      {finding.left_out.length > 0 && (
        <p className="mt-1 text-note text-quiet">Beside it: {finding.left_out.join("; ")}.</p>
      )}
      {finding.expected.map((one) => (
        <p key={one.words} className="mt-1 text-note">
          Expected: {one.words}: <strong>{one.held}</strong>.
        </p>
      ))}
      {finding.caveats.map((words) => (
        <p key={words} className="mt-1 text-note">
          <span className="text-mark">⚑</span> {words}
        </p>
      ))}
      {before.length > 0 && (
        <p className="mt-1 text-note">
          <span className="text-mark">⚑</span> Rests on what was measured before an update:{" "}
          {before.join("; ")}.
        </p>
      )}
      <Acts finding={finding} />
      <p className="mt-1 text-note text-quiet">
        Rests on{" "}
        <Link to={cellsAddress(review.id, finding)} className="underline">
          {count(finding.cells.length, "cell")} of {count(finding.tests.length, "test")}
        </Link>
        ,{" "}
        <Link to={`/help/method#section-${parseInt(finding.section)}`} className="underline">
          method {finding.section}
        </Link>
        . About findings:{" "}
        <Link to={`/help/findings#${anchor(finding.kind_words)}`} className="underline">
          {finding.kind_words}
        </Link>
        .
      </p>
      {finding.pin && <PinOf finding={finding} pin={finding.pin} pins={pins} />}
    </section>
  );
}

/** A table as spreadsheets take it from the clipboard: fields apart by tabs. */
export function pastable({ columns, rows }: { columns: string[]; rows: string[][] }): string {
  return [columns, ...rows]
    .map((row) => row.map((cell) => cell.replace(/[\t\r\n]+/g, " ")).join("\t"))
    .join("\n");
}

function Charts({ finding, table }: { finding: Finding; table?: { columns: string[]; rows: string[][] } }) {
  const review = useReview();
  const positionOf = (column: number) => columnOf(review, column)?.position;
  const label = finding.sentence;
  if (finding.curves) {
    return <CurvesChart curves={finding.curves} label={label} positionOf={positionOf} table={table} />;
  }
  if (finding.extents) {
    return <ExtentsChart extents={finding.extents} label={label} positionOf={positionOf} table={table} />;
  }
  if (!finding.bands.length) return null;
  return (
    <BandsChart
      bands={finding.bands}
      margin={finding.margin_pct ?? 0}
      label={label}
      caption={bandsCaption(finding)}
      table={table}
      chosen={finding.kind === "overall" ? finding.columns.at(-1) : undefined}
      positionOf={positionOf}
    />
  );
}

function bandsCaption(finding: Finding): string {
  const rings = finding.bands.some((band) => band.dots.length) ? " Small rings: single tests." : "";
  return `Better is to the right, on equal ratios. Shaded: margin of ${finding.margin_pct} %. Bars: 95 % for all together.${rings}`;
}

/** What stands in the frame of a saved picture, so that it can be read by itself. */
function captionOf(finding: Finding, review: ReturnType<typeof useReview>) {
  const seals = finding.columns.flatMap((id) => {
    const column = columnOf(review, id);
    return column ? [{ position: column.position, label: column.label }] : [];
  });
  return {
    title: finding.sentence,
    lines: [review.question, finding.kind_words, `method ${finding.section}`, ...finding.caveats.slice(0, 1)],
    seals: seals.slice(0, 8),
  };
}

function Table({ columns, rows }: { columns: string[]; rows: string[][] }) {
  const [all, setAll] = useState(false);
  const shown = all ? rows : rows.slice(0, MOST_LINES);
  return (
    <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="As a table">
      <table className="w-full border-collapse text-note">
        <thead>
          <tr className="border-b border-ink text-left">
            {columns.map((head, at) => (
              <th key={at} scope="col" className="py-1 pr-4">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((row, line) => (
            <tr key={line} className="border-b border-line align-top">
              {row.map((value, at) => (
                <td key={at} className="py-1 pr-4">
                  {unbroken(value)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > MOST_LINES && (
        <Button kind="link" onClick={() => setAll(!all)}>
          {all ? "Show fewer lines" : `Show all ${rows.length} lines`}
        </Button>
      )}
    </div>
  );
}
