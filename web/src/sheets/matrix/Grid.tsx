import { useRef, useState, type KeyboardEvent } from "react";
import { useQuery } from "@tanstack/react-query";
import type { ColumnShape, Shapes } from "../../api/client";
import { referencesQuery } from "../../api/standings";
import { ReferenceCellView } from "../../references/ReferenceCellView";
import { ReferenceDialog } from "../../references/ReferenceDialog";
import { ReferenceHead } from "../../references/ReferenceHead";
import { count } from "../../marks/words";
import { measureOf } from "./axes";
import { FlagLine, flagsOf } from "./FlagLine";
import { ColumnHead } from "./grid/ColumnHead";
import { GridCell } from "./grid/GridCell";
import { linesOf, type GridLine, type Line } from "./grid/lines";
import { GroupHead, RowHead } from "./grid/RowHead";
import { GROUP, RowGroup } from "./grid/RowGroup";
import { useFocusKept } from "./grid/useFocusKept";
import { LedgerInput } from "./ledger/LedgerInput";
import type { Ledger, Move } from "./ledger/useLedger";
import type { LensObject } from "./lenses/lens";
import { sameCell, type CellPlace } from "./place";
import { useMeasuredBefore } from "../../api/measuredBefore";
import { useMatrix, useReview } from "../../api/review";
import { BeforeLine } from "./BeforeLine";

interface Props {
  lens: LensObject;
  chosen: CellPlace[];
  /** Only these tests are shown, as while one of their cells is open; null for all. */
  only: ReadonlySet<number> | null;
  folded: ReadonlySet<string>;
  onFolded: (folded: ReadonlySet<string>) => void;
  onChoose: (cell: CellPlace, beside: boolean) => void;
  onFocus: (cell: CellPlace) => void;
  onFile?: (cell: CellPlace, file: File) => void;
  onBaseline: (column: ColumnShape) => void;
  onEveryonesBaseline?: (column: ColumnShape) => void;
  ledger: Ledger;
  /** A table pasted on a cell, for whoever may record. */
  onBlock?: (at: CellPlace, text: string) => void;
  /** A single reading pasted on a cell. */
  onText: (at: CellPlace, text: string) => void;
}

type Reference = Shapes["ReferenceShape"];

const TEST_PX = 196;
const REFERENCE_PX = 200;
// A review with more rows scrolls within its sheet, so that the names of its configurations stay in sight.
const MOST_ROWS = 12;
// Collapsed borders do not stay with a cell that is held in place, so these cells draw their lines themselves.
const LINE_RIGHT = "after:absolute after:inset-y-0 after:-right-px after:w-px after:bg-line";
const LINE_BELOW = "before:absolute before:inset-x-0 before:-bottom-px before:h-px before:bg-line";
// In the ledger every sign that can begin a reading begins one.
const BEGINS_A_READING = /^[\d~≈<>≤≥+.,?ncrhvosx−-]$/;

/** Tests by configurations. One cell is in the tab order; arrows move, Enter opens, Space lays a second one over. */
export function Grid(props: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const { lens, only, folded } = props;
  const typing = props.ledger.on && lens.takesTyping;
  // Each metric that can be typed has its row, also one that is told beside the average.
  const items = linesOf(review, matrix, typing ? { ...lens, tailsTellLows: false } : lens, {
    folded,
    only,
    typing,
  });
  const lines = items.filter((item): item is Line => item.kind === "line");
  const columns = review.columns;
  const before = useMeasuredBefore();
  const references = useReferences(lens, matrix.baseline);
  const [read, setRead] = useState<{ at: number; line: Line } | null>(null);
  const walk = useWalk(lines.length, columns.length + references.length);
  const { here, table } = walk;
  const focusKept = useFocusKept(table);
  const onKey = (event: KeyboardEvent, row: number, column: number, cell: CellPlace) => {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return;
    const acts: Record<string, () => void> = {
      Enter: () => (props.ledger.on ? props.ledger.begin(cell, "") : props.onChoose(cell, false)),
      " ": () => props.onChoose(cell, true),
    };
    const move = walk.moves(row, column)[event.key] ?? acts[event.key];
    const types = typing && BEGINS_A_READING.test(event.key);
    if (!move && !types) return;
    event.preventDefault();
    if (move) move();
    else props.ledger.begin(cell, event.key);
  };
  if (!columns.length || (!lines.length && !items.length)) {
    return <p className="p-4 font-serif">This review has no tests or configurations yet.</p>;
  }
  const measure = measureOf(matrix);
  const tableRow = (line: Line) => (
    <tr key={line.key} aria-rowindex={line.row + 2} className="border border-line">
      <th scope="row" className={`sticky left-0 z-10 bg-sheet px-2.5 py-1 text-left ${LINE_RIGHT}`}>
        <RowHead line={line} />
      </th>
      {columns.map((column, index) => {
        const cell = { test: line.test, metric: line.metric, column: column.id };
        const label = `${line.name}, ${line.detail}, on ${column.label}`;
        return (
          <GridCell
            key={column.id}
            label={label}
            place={`${line.row}.${index}`}
            tabbable={line.row === here.row && index === here.column}
            chosen={props.chosen.some((one) => sameCell(one, cell))}
            onFocus={() => {
              walk.settle(line.row, index);
              props.onFocus(cell);
            }}
            onKey={(event) => onKey(event, line.row, index, cell)}
            onClick={(beside) => (typing ? props.ledger.begin(cell, "") : props.onChoose(cell, beside))}
            onPaste={
              props.onBlock && lens.takesTyping
                ? (text) => {
                    if (/[\t\n]/.test(text.trim())) props.onBlock?.(cell, text);
                    else props.onText(cell, text.trim());
                  }
                : undefined
            }
            cell={cell}
            onFile={props.onFile ? (file) => props.onFile?.(cell, file) : undefined}
          >
            {props.ledger.isAt(cell) ? (
              <LedgerInput
                ledger={props.ledger}
                label={label}
                onBlock={(text) => props.onBlock?.(cell, text)}
              />
            ) : (
              <>
                <lens.Cell line={line} column={column} measure={measure} />
                {line.leads && <FlagLine flags={flagsOf(matrix, line.test, column.id)} />}
                {line.leads && <BeforeLine why={before([cell])} />}
              </>
            )}
          </GridCell>
        );
      })}
      {references.map((reference, at) => {
        const index = columns.length + at;
        const cell = inRow(reference, line);
        return (
          <td
            key={`reference ${reference.id}`}
            role="gridcell"
            tabIndex={line.row === here.row && index === here.column ? 0 : -1}
            data-at={`${line.row}.${index}`}
            onFocus={() => walk.settle(line.row, index)}
            onClick={() => cell && setRead({ at, line })}
            onKeyDown={(event) => {
              const move = walk.moves(line.row, index)[event.key];
              if (!move && event.key !== "Enter") return;
              event.preventDefault();
              if (move) move();
              else if (cell) setRead({ at, line });
            }}
            className={`h-[41px] cursor-pointer border-l border-dashed border-ink bg-paper px-2.5 py-0.5 focus-visible:outline-offset-[-2px] hover:bg-band`}
          >
            <span className="sr-only">
              {`${line.name}, ${line.detail}, ${reference.label}, from ${reference.source}: `}
            </span>
            <ReferenceCellView
              cell={cell}
              versus={lens.key === "versus"}
              margin={matrix.rows.find((row) => row.key === line.key)?.margin ?? null}
              reach={measure.reach}
            />
          </td>
        );
      })}
    </tr>
  );
  const drawn = (item: GridLine) => {
    if (item.kind === "line") return tableRow(item);
    const fold = () => props.onFolded(toggled(folded, item.key));
    return (
      <tr key={`group ${item.key}`} className="border border-line bg-paper">
        <th scope="rowgroup" colSpan={columns.length + references.length + 1} className="px-2.5 text-left">
          <div className="sticky left-2.5 w-fit">
            <GroupHead line={item} onFold={only === null ? fold : undefined} />
          </div>
        </th>
      </tr>
    );
  };
  const opened = read ? references[read.at] : undefined;
  const openedCell = opened && read ? inRow(opened, read.line) : undefined;
  const pieces = Array.from({ length: Math.ceil(items.length / GROUP) }, (_, at) =>
    items.slice(at * GROUP, (at + 1) * GROUP),
  );
  return (
    <div
      className={`overflow-auto scroll-pt-24 scroll-pl-56 ${items.length > MOST_ROWS ? "max-h-[calc(100vh-10.5rem)] min-h-60 print:max-h-none" : ""}`}
    >
      <table
        ref={table}
        {...focusKept}
        role="grid"
        aria-rowcount={lines.length + 1}
        aria-label={`${review.question} ${lens.key}`}
        className="w-full table-fixed border-collapse bg-sheet"
        style={{
          minWidth:
            TEST_PX +
            lens.baselinePx +
            (columns.length - 1) * lens.columnPx +
            references.length * REFERENCE_PX,
        }}
      >
        <colgroup>
          <col className="w-56" />
          {columns.map((column) => (
            <col
              key={column.id}
              style={
                column.id === matrix.baseline && lens.baselinePx < lens.columnPx
                  ? { width: lens.baselinePx + 27 }
                  : undefined
              }
            />
          ))}
          {references.map((reference) => (
            <col key={reference.id} />
          ))}
        </colgroup>
        <thead>
          <tr aria-rowindex={1} className="border border-line align-top">
            <th
              scope="col"
              className={`sticky top-0 left-0 z-30 bg-sheet px-2.5 py-1.5 text-left ${LINE_RIGHT} ${LINE_BELOW}`}
            >
              <div className="text-note font-semibold">{count(review.tests.length, "test")}</div>
              <div className="text-small font-normal text-quiet">{lens.headline(matrix)}</div>
            </th>
            {columns.map((column) => (
              <ColumnHead
                key={column.id}
                column={column}
                baseline={matrix.baseline}
                className={`sticky top-0 z-20 border-l border-line bg-sheet px-2.5 py-1.5 text-left ${LINE_BELOW}`}
                onBaseline={props.onBaseline}
                onEveryonesBaseline={props.onEveryonesBaseline}
              >
                {lens.Head && <lens.Head column={column} />}
              </ColumnHead>
            ))}
            {references.map((reference) => (
              <ReferenceHead
                key={reference.id}
                reference={reference}
                className={`sticky top-0 z-20 border-l border-dashed border-ink bg-paper px-2.5 py-1.5 text-left ${LINE_BELOW}`}
              />
            ))}
          </tr>
        </thead>
        {pieces.map((piece, at) => (
          <RowGroup
            key={piece[0]?.key}
            rows={piece.length}
            columns={columns.length + references.length}
            rowHeight={lens.rowPx}
            held={at === 0 || piece.some((item) => item.kind === "line" && item.row === here.row)}
          >
            {() => piece.map(drawn)}
          </RowGroup>
        ))}
      </table>
      {read && opened && openedCell && (
        <ReferenceDialog
          reference={opened}
          cell={openedCell}
          row={`${read.line.name} ${read.line.detail}`}
          onClose={() => setRead(null)}
        />
      )}
    </div>
  );
}

/** What stands beside the review from others, in the lenses that compare or show figures. */
function useReferences(lens: LensObject, baseline: number | null): Reference[] {
  const review = useReview();
  const shown = lens.key === "versus" || lens.key === "figures";
  const { data } = useQuery({ ...referencesQuery(review.id, baseline), enabled: shown });
  return shown ? (data?.references ?? []) : [];
}

function inRow(reference: Reference, line: Line) {
  return reference.cells.find((cell) => cell.test === line.test && cell.metric === line.metric);
}

function toggled(folded: ReadonlySet<string>, key: string): ReadonlySet<string> {
  const next = new Set(folded);
  if (!next.delete(key)) next.add(key);
  return next;
}

/** Where one stands in the grid, and how the keys move from there. */
function useWalk(rows: number, columns: number) {
  const [at, setAt] = useState({ row: 0, column: 0 });
  const table = useRef<HTMLTableElement>(null);
  const here = { row: Math.min(at.row, rows - 1), column: Math.min(at.column, columns - 1) };
  const go = (row: number, column: number) => {
    const next = {
      row: Math.max(0, Math.min(rows - 1, row)),
      column: Math.max(0, Math.min(columns - 1, column)),
    };
    setAt(next);
    table.current?.querySelector<HTMLElement>(`[data-at="${next.row}.${next.column}"]`)?.focus();
  };
  return {
    here,
    table,
    settle: (row: number, column: number) => setAt({ row, column }),
    moves: (row: number, column: number): Record<string, () => void> => ({
      ArrowUp: () => go(row - 1, column),
      ArrowDown: () => go(row + 1, column),
      ArrowLeft: () => go(row, column - 1),
      ArrowRight: () => go(row, column + 1),
      Home: () => go(row, 0),
      End: () => go(row, columns - 1),
    }),
  };
}

/** Moves the focus from a cell of the ledger to its neighbour, once the cell is drawn again. */
export function focusCell(from: CellPlace, move: Move): void {
  window.setTimeout(() => {
    const cell = document.querySelector<HTMLElement>(
      `[data-cell="${from.test}.${from.metric}.${from.column}"]`,
    );
    const [row, column] = (cell?.dataset.at ?? "").split(".").map(Number);
    if (row === undefined || column === undefined) return;
    const to = {
      down: [row + 1, column],
      right: [row, column + 1],
      left: [row, column - 1],
      stay: [row, column],
    }[move];
    const next = document.querySelector<HTMLElement>(`[data-at="${to.join(".")}"]`);
    (next ?? cell)?.focus();
  });
}
