import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { makeBaseline } from "../api/acts";
import type { ColumnShape } from "../api/client";
import { testOf } from "../api/lookup";
import { cellQuery, matrixQuery, traceQuery } from "../api/queries";
import { Button } from "../design/Button";
import { useNotices } from "../design/Notices";
import { count } from "../marks/words";
import { useKeys } from "../shell/keys";
import { Failed, Loading } from "../shell/States";
import { AskDialog } from "./matrix/AskDialog";
import { Docket } from "../docket/Docket";
import { FilePicker, useFrameFile } from "./matrix/frameFile";
import { BringIn } from "./matrix/bring/BringIn";
import { PasteDialog } from "./matrix/ledger/paste/PasteDialog";
import { LedgerStrip } from "./matrix/ledger/LedgerStrip";
import { useLedger, type Move } from "./matrix/ledger/useLedger";
import { focusCell, Grid } from "./matrix/Grid";
import { FirstSteps } from "../first/FirstSteps";
import { Hint } from "../first/Hint";
import { SinceLast } from "../talk/SinceLast";
import { Splits } from "../docket/Splits";
import { MeasuredBefore } from "./matrix/MeasuredBefore";
import { LensBar } from "./matrix/LensBar";
import { hasCorrection, withoutRecorder } from "./matrix/evidence/corrected";
import { hasTrace, shownPass } from "./matrix/pane/chosen";
import { LENSES } from "./matrix/lenses/registry";
import { sameCell, useMatrixPlace, type CellPlace } from "./matrix/place";
import { MatrixProvider, useMatrix, useReview } from "../api/review";
import { useMay } from "../api/session";
import { TabPanel, Tabs } from "../design/Tabs";
import { later } from "../design/later";

const CellPane = later(
  () => import("./matrix/CellPane").then((m) => m.CellPane),
  () => <Loading what="Opening the cell" />,
);

const MOST_CELLS = 6;

/** The matrix with its lenses; the pane under it holds the chosen cells, the docket stands beside Progress. */
export function Matrix() {
  const may = useMay();
  const review = useReview();
  const place = useMatrixPlace();
  const query = useQuery(matrixQuery(review.id, place.baseline, place.idle));
  const [asking, setAsking] = useState<CellPlace | "all" | null>(null);
  const focused = useRef<CellPlace | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const { warn, tell } = useNotices();
  const frameFile = useFrameFile(review.id);
  const [bringing, setBringing] = useState(false);
  const [whole, setWhole] = useState(false);
  const [block, setBlock] = useState<{ at: CellPlace; text: string } | null>(null);
  const ledger = useLedger(review, (from: CellPlace, move: Move) => focusCell(from, move));
  const turnLedger = (on: boolean) => {
    if (on && !may("record")) warn("To type figures in, the role tester is needed.");
    else {
      if (on && !place.lens.takesTyping) place.setLens("figures");
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
    ...Object.fromEntries(LENSES.map((lens, at) => [String(at + 1), () => place.setLens(lens.key)])),
    m: () => setWhole(!whole),
    Escape: () => (ledger.on ? ledger.turn(false) : place.setCells([])),
    b: () => focused.current && place.setBaseline(focused.current.column),
    p: ask,
    t: () => turnLedger(!ledger.on),
    i: () => focused.current && may("import_passes") && picker.current?.click(),
  });
  useEffect(() => {
    // The pane is wanted soon; its code comes while nobody waits for it.
    void CellPane.load();
  }, []);
  if (query.isPending) return <Loading what="Reading the matrix" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const correctable = place.lens.key === "figures" && hasCorrection(query.data);
  const corrected = correctable && place.corrected;
  const hasIdle =
    place.idle || query.data.rows.some((row) => Object.values(row.cells).some((cell) => cell.idle !== null));
  const matrix = corrected ? withoutRecorder(query.data) : query.data;
  const opened = place.cells.length > 0;
  const only = opened && !whole ? new Set(place.cells.map((cell) => cell.test)) : null;
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
    <MatrixProvider matrix={matrix}>
      <main className="flex flex-1 flex-col px-5 pt-2.5">
        <Tabs value={place.lens.key} onChange={place.setLens}>
          <LensBar
            lens={place.lens}
            onAsk={may("ask_for_passes") ? () => setAsking("all") : undefined}
            typing={ledger.on}
            onTyping={may("record") ? turnLedger : undefined}
            onBring={may("import_passes") ? () => setBringing(true) : undefined}
          />
          <Recounting />
          <FirstSteps
            onTyping={may("record") ? () => turnLedger(true) : undefined}
            onBring={may("import_passes") ? () => setBringing(true) : undefined}
            onAsk={() => setAsking("all")}
            onVersus={() => place.setLens("versus")}
          />
          <Hint name="matrix" />
          <SinceLast />
          <Splits />
          <MeasuredBefore />
          {hasIdle && (
            <label className="mb-1 flex items-center gap-1.5 text-note">
              <input
                type="checkbox"
                checked={place.idle}
                onChange={(event) => place.setIdle(event.target.checked)}
              />
              idle baselines taken off where a row has one
              {place.idle && <strong className="text-mark">taken off, not as measured</strong>}
            </label>
          )}
          {correctable && (
            <label className="mb-1 flex items-center gap-1.5 text-note">
              <input
                type="checkbox"
                checked={place.corrected}
                onChange={(event) => place.setCorrected(event.target.checked)}
              />
              figures as they would be without the recorder, where pairs of passes show what it costs
              {corrected && <strong className="text-mark">corrected, not as measured</strong>}
            </label>
          )}
          <TabPanel value={place.lens.key} className="flex gap-6">
            <div className="min-w-0 flex-1">
              <Grid
                lens={place.lens}
                chosen={place.cells}
                only={only}
                folded={place.folded}
                onFolded={place.setFolded}
                onChoose={toggle}
                onFocus={(cell) => {
                  focused.current = cell;
                }}
                onFile={may("import_passes") ? (cell, file) => frameFile.send(cell, file) : undefined}
                onBaseline={(column) => place.setBaseline(column.id)}
                onEveryonesBaseline={may("edit_review") ? (column) => void everyone(column) : undefined}
                ledger={ledger}
                onBlock={may("record") ? (at, text) => setBlock({ at, text }) : undefined}
                onText={(at, text) => {
                  ledger.turn(true);
                  ledger.begin(at, text);
                }}
              />
              {only === null ? (
                <place.lens.Foot />
              ) : (
                <p className="mt-1 text-note">
                  <Button kind="link" onClick={() => setWhole(true)}>
                    Show the whole matrix
                  </Button>{" "}
                  <span className="text-quiet">(m)</span>
                </p>
              )}
            </div>
            {place.lens.key === "progress" && !opened && (
              <Docket onAsk={may("ask_for_passes") ? () => setAsking("all") : undefined} />
            )}
          </TabPanel>
        </Tabs>
        {ledger.on && <LedgerStrip ledger={ledger} />}
        {bringing && <BringIn onClose={() => setBringing(false)} />}
        {block && (
          <PasteDialog
            at={block.at}
            text={block.text}
            onClose={() => {
              setBlock(null);
              ledger.leave();
              focusCell(block.at, "stay");
            }}
          />
        )}
        {place.cells.length > 0 && (
          <CellPane
            key={`${place.cells[0]?.test}.${place.cells[0]?.column}`}
            cells={place.cells}
            onClose={() => place.setCells([])}
            onAsk={(cell) => setAsking(cell)}
            onFile={(cell, file) => frameFile.send(cell, file)}
          />
        )}
        <FilePicker
          picker={picker}
          onFile={(file) => {
            if (focused.current) frameFile.send(focused.current, file);
          }}
        />
        {frameFile.dialog}
        {asking && <AskDialog at={asking} onClose={() => setAsking(null)} />}
      </main>
    </MatrixProvider>
  );
}

/** That figures are about to change, since what counts of the passes was changed. */
function Recounting() {
  const review = useReview();
  const matrix = useMatrix();
  const passes = matrix.recounting.reduce((sum, one) => sum + one.passes, 0);
  const names = matrix.recounting.map((one) => testOf(review, one.test)?.name);
  return (
    <p role="status" className={passes ? "mb-1 text-note" : "sr-only"}>
      {passes > 0 &&
        `What counts was changed: ${count(passes, "pass")} of ${[...new Set(names)].join(", ")} ${passes === 1 ? "is" : "are"} being computed anew. Until then their figures follow what counted before.`}
    </p>
  );
}
