import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { makeBaseline } from "../api/acts";
import type { ColumnShape, MatrixShape, ReviewShape, SessionShape, TestShape } from "../api/client";
import { cellQuery, matrixQuery, traceQuery } from "../api/queries";
import { useNotices } from "../design/Notices";
import { count } from "../marks/words";
import { useKeys } from "../shell/keys";
import { Failed, Loading } from "../shell/States";
import { AskDialog } from "./matrix/AskDialog";
import { Docket } from "../docket/Docket";
import { DifferenceTable } from "./DifferenceTable";
import { FilePicker, useFrameFile } from "./matrix/frameFile";
import { BringIn } from "./matrix/bring/BringIn";
import { BlockDialog } from "./matrix/ledger/BlockDialog";
import { LedgerStrip } from "./matrix/ledger/LedgerStrip";
import { useLedger, type Move } from "./matrix/ledger/useLedger";
import { focusCell, Grid } from "./matrix/Grid";
import { LensBar } from "./matrix/LensBar";
import { useRecorderFactor, withoutRecorder } from "./matrix/evidence/corrected";
import { hasTrace, shownPass } from "./matrix/pane/chosen";
import { sameCell, useMatrixPlace, type CellPlace } from "./matrix/place";

const loadPane = () => import("./matrix/CellPane");
const CellPane = lazy(() => loadPane().then((m) => ({ default: m.CellPane })));

const MOST_CELLS = 6;

/** The matrix with its lenses; the pane under it holds the chosen cells, the docket stands beside Progress. */
export function Matrix({ review, session }: { review: ReviewShape; session: SessionShape }) {
  const place = useMatrixPlace();
  const query = useQuery(matrixQuery(review.id, place.baseline));
  const [asking, setAsking] = useState<CellPlace | "all" | null>(null);
  const focused = useRef<CellPlace | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const { warn, tell } = useNotices();
  const frameFile = useFrameFile(review.id);
  const may = (act: string) => session.may.includes(act);
  const [bringing, setBringing] = useState(false);
  const k = useRecorderFactor(review.id);
  const [block, setBlock] = useState<{ at: CellPlace; text: string } | null>(null);
  const ledger = useLedger(review, (from: CellPlace, move: Move) => focusCell(from, move));
  const turnLedger = (on: boolean) => {
    if (on && !may("record")) warn("To type figures in, the role tester is needed.");
    else {
      if (on && (place.lens === "progress" || place.lens === "limits")) place.setLens("figures");
      ledger.turn(on);
    }
  };
  const client = useQueryClient();
  const toggle = (cell: CellPlace, beside: boolean) => {
    // What the pane will ask for is asked for now, while it is being drawn.
    void client
      .fetchQuery({ ...cellQuery(review.id, cell.test, cell.column), staleTime: 2000 })
      .then((detail) => {
        const pass = shownPass(detail, undefined);
        return hasTrace(pass) ? client.prefetchQuery(traceQuery(pass?.id ?? "", null)) : undefined;
      })
      .catch(() => undefined);
    const chosen = place.cells;
    if (chosen.some((one) => sameCell(one, cell)))
      place.setCells(chosen.filter((one) => !sameCell(one, cell)));
    else place.setCells(beside ? [...chosen, cell].slice(-MOST_CELLS) : [cell]);
  };
  const ask = () => {
    if (may("ask_for_passes")) setAsking(focused.current ?? place.cells[0] ?? "all");
    else warn("To ask for passes, the role tester is needed.");
  };
  useKeys({
    "1": () => place.setLens("progress"),
    "2": () => place.setLens("figures"),
    "3": () => place.setLens("versus"),
    "4": () => place.setLens("limits"),
    Escape: () => (ledger.on ? ledger.turn(false) : place.setCells([])),
    b: () => focused.current && place.setBaseline(focused.current.column),
    p: ask,
    t: () => turnLedger(!ledger.on),
    i: () => focused.current && may("import_passes") && picker.current?.click(),
  });
  useEffect(() => {
    // The pane is wanted soon; its code comes while nobody waits for it.
    void loadPane();
  }, []);
  if (query.isPending) return <Loading what="Reading the matrix" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const corrected = place.lens === "figures" && place.corrected && k !== null;
  const matrix = corrected ? withoutRecorder(query.data, review, k) : query.data;
  const everyone = async (column: ColumnShape) => {
    try {
      await makeBaseline(review.id, column.id);
      place.setBaseline(null);
      tell(`${column.label} is now the baseline for everybody.`);
    } catch (error) {
      warn((error as Error).message);
    }
  };
  return (
    <main className="flex flex-1 flex-col px-5 pt-2.5">
      <LensBar
        lens={place.lens}
        onLens={place.setLens}
        matrix={matrix}
        review={review}
        onAsk={may("ask_for_passes") ? () => setAsking("all") : undefined}
        typing={ledger.on}
        onTyping={may("record") ? turnLedger : undefined}
        onBring={may("import_passes") ? () => setBringing(true) : undefined}
        may={may}
      />
      <Recounting review={review} matrix={matrix} />
      {place.lens === "figures" && k !== null && (
        <label className="mb-1 flex items-center gap-1.5 text-note">
          <input
            type="checkbox"
            checked={place.corrected}
            onChange={(event) => place.setCorrected(event.target.checked)}
          />
          leading figures as they would be without the recorder (divided by {k.toFixed(4)})
          {corrected && <strong className="text-mark">corrected, not as measured</strong>}
        </label>
      )}
      <div className="flex gap-6">
        <div className="min-w-0 flex-1">
          <Grid
            review={review}
            matrix={matrix}
            lens={place.lens}
            chosen={place.cells}
            onChoose={toggle}
            onFocus={(cell) => {
              focused.current = cell;
            }}
            onFile={may("import_passes") ? (cell, file) => frameFile.send(cell, file) : undefined}
            onBaseline={(column) => place.setBaseline(column.id)}
            onEveryonesBaseline={may("edit_review") ? (column) => void everyone(column) : undefined}
            onAsk={may("ask_for_passes") ? (cell) => setAsking(cell) : undefined}
            ledger={ledger}
            onBlock={(at, text) => setBlock({ at, text })}
          />
          <Foot matrix={matrix} review={review} lens={place.lens} />
        </div>
        {place.lens === "progress" && (
          <Docket
            review={review}
            may={may}
            onAsk={may("ask_for_passes") ? () => setAsking("all") : undefined}
          />
        )}
      </div>
      {ledger.on && <LedgerStrip ledger={ledger} review={review} matrix={matrix} />}
      {bringing && <BringIn review={review} onClose={() => setBringing(false)} />}
      {block && (
        <BlockDialog
          review={review}
          matrix={matrix}
          at={block.at}
          text={block.text}
          onClose={() => {
            setBlock(null);
            ledger.leave();
          }}
        />
      )}
      {place.cells.length > 0 && (
        <Suspense fallback={<Loading what="Opening the cell" />}>
          <CellPane
            key={`${place.cells[0]?.test}.${place.cells[0]?.column}`}
            review={review}
            matrix={matrix}
            cells={place.cells}
            may={may}
            onClose={() => place.setCells([])}
            onAsk={(cell) => setAsking(cell)}
            onFile={(cell, file) => frameFile.send(cell, file)}
          />
        </Suspense>
      )}
      <FilePicker
        picker={picker}
        onFile={(file) => {
          if (focused.current) frameFile.send(focused.current, file);
        }}
      />
      {frameFile.dialog}
      {asking && <AskDialog review={review} at={asking} onClose={() => setAsking(null)} />}
    </main>
  );
}

interface FootProps {
  matrix: MatrixShape;
  review: ReviewShape;
  lens: string;
}

/** What the lens needs said once: what differs, or which noise and level the intervals use. */
function Foot({ matrix, review, lens }: FootProps) {
  if (lens === "progress") {
    return (
      <div className="mt-4">
        <DifferenceTable columns={review.columns} differences={review.differences} />
      </div>
    );
  }
  if (lens === "limits")
    return <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">{LIMITS_WORDS}</p>;
  const thin = matrix.rows.some((row) => Object.values(row.cells).some((cell) => cell.thin));
  const unknown = matrix.rows.some(
    (row) => row.noise.source === "unknown" && Object.keys(row.cells).length > 1,
  );
  return (
    <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">
      {lens === "versus" ? versusWords(matrix, review.columns.length - 1) : FIGURES_WORDS}1 % low:{" "}
      {matrix.low_words}.{thin && " Thin tails take part in no verdict."}
      <Returned review={review} matrix={matrix} />
      {unknown && " Where no cell of a row has a second pass, the noise is unknown and there is no verdict."}
    </p>
  );
}

/** That figures are about to change, since what counts of the passes was changed. */
function Recounting({ review, matrix }: { review: ReviewShape; matrix: MatrixShape }) {
  const passes = matrix.recounting.reduce((sum, one) => sum + one.passes, 0);
  const names = matrix.recounting.map((one) => testOf(review, one.test)?.name);
  return (
    <p role="status" className={passes ? "mb-1 text-note" : "sr-only"}>
      {passes > 0 &&
        `What counts was changed: ${count(passes, "pass")} of ${[...new Set(names)].join(", ")} ${passes === 1 ? "is" : "are"} being computed anew. Until then their figures follow what counted before.`}
    </p>
  );
}

/** Whether the baseline, measured again at the end, is what it was. */
function Returned({ review, matrix }: { review: ReviewShape; matrix: MatrixShape }) {
  if (!matrix.returned.length) return null;
  const drifted = matrix.returned.filter(
    (one) => !["level", "undecided", "noise unknown"].includes(one.verdict),
  );
  const level = matrix.returned.filter((one) => one.verdict === "level").length;
  const open = matrix.returned.length - level - drifted.length;
  const rest = [
    level > 0 && `level in ${count(level, "test")}`,
    open > 0 && `not to be told from so few passes in ${count(open, "test")}`,
  ].filter(Boolean);
  return (
    <>
      {drifted.map((one) => (
        <span key={one.test} className="block text-mark">
          ⚑ {testOf(review, one.test)?.name}, {testOf(review, one.test)?.detail}: {one.words}. Every
          comparison of the session is to be read with that.
        </span>
      ))}
      {rest.length > 0 && <span className="block">The baseline again at the end: {rest.join(", ")}.</span>}
    </>
  );
}

const LIMITS_WORDS =
  "Each second of a run is named by the first evidence that holds, in this order: graphics memory full, main memory full, clock held down by heat or power, a rate cap, graphics, one thread, all threads, storage. A cell is called by what holds half of its seconds or more.";
const FIGURES_WORDS = "Intervals are 95 %, from the passes of the cell alone. ";

function versusWords(matrix: MatrixShape, comparisons: number): string {
  if (comparisons <= 1) return "Intervals are 95 %. ";
  const level = (100 - matrix.level_pct).toFixed(2);
  return `Intervals hold with 95 % for all ${comparisons} comparisons of a row together; each has an error level of ${level} %. `;
}

export function testOf(review: ReviewShape, id: number): TestShape | undefined {
  return review.tests.find((test) => test.id === id);
}

export function columnOf(review: ReviewShape, id: number): ColumnShape | undefined {
  return review.columns.find((column) => column.id === id);
}
