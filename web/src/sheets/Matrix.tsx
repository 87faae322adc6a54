import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useRef, useState } from "react";
import { makeBaseline } from "../api/acts";
import type { ColumnShape, MatrixShape, ReviewShape, SessionShape, TestShape } from "../api/client";
import { matrixQuery } from "../api/queries";
import { useNotices } from "../design/Notices";
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
import { sameCell, useMatrixPlace, type CellPlace } from "./matrix/place";

const CellPane = lazy(() => import("./matrix/CellPane").then((m) => ({ default: m.CellPane })));

const MOST_CELLS = 2;

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
  const [block, setBlock] = useState<{ at: CellPlace; text: string } | null>(null);
  const ledger = useLedger(review, (from: CellPlace, move: Move) => focusCell(from, move));
  const turnLedger = (on: boolean) => {
    if (on && !may("record")) warn("To type figures in, the role tester is needed.");
    else {
      if (on && place.lens === "progress") place.setLens("figures");
      ledger.turn(on);
    }
  };
  const toggle = (cell: CellPlace, beside: boolean) => {
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
    Escape: () => (ledger.on ? ledger.turn(false) : place.setCells([])),
    b: () => focused.current && place.setBaseline(focused.current.column),
    p: ask,
    t: () => turnLedger(!ledger.on),
    i: () => focused.current && may("import_passes") && picker.current?.click(),
  });
  if (query.isPending) return <Loading what="Reading the matrix" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const matrix = query.data;
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
      />
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
  const thin = matrix.rows.some((row) => Object.values(row.cells).some((cell) => cell.thin));
  const unknown = matrix.rows.some(
    (row) => row.noise.source === "unknown" && Object.keys(row.cells).length > 1,
  );
  return (
    <p className="mt-1.5 mb-3 max-w-[900px] text-note text-quiet">
      {lens === "versus" ? versusWords(matrix, review.columns.length - 1) : FIGURES_WORDS}1 % low:{" "}
      {matrix.low_words}.{thin && " Thin tails take part in no verdict."}
      {unknown && " Where no cell of a row has a second pass, the noise is unknown and there is no verdict."}
    </p>
  );
}

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
