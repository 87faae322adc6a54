import { useRef, useState, type DragEvent, type KeyboardEvent, type ReactNode } from "react";
import type { ColumnShape, MatrixShape, ReviewShape, RowShape } from "../../api/client";
import { Menu } from "../../design/Menu";
import { Seal } from "../../marks/Seal";
import { count, withUnit } from "../../marks/words";
import { testOf } from "../Matrix";
import { FiguresCell } from "./FiguresCell";
import { LedgerInput } from "./ledger/LedgerInput";
import type { Ledger, Move } from "./ledger/useLedger";
import { Beyond } from "../Beyond";
import { sameCell, type CellPlace, type Lens } from "./place";
import { GROUP, RowGroup } from "./RowGroup";
import { ProgressCellView } from "./ProgressCellView";
import { LimitsCellView } from "./LimitsCellView";
import { axisTop, axisReach } from "./axes";
import { VersusCell } from "./VersusCell";

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  lens: Lens;
  chosen: CellPlace[];
  onChoose: (cell: CellPlace, beside: boolean) => void;
  onFocus: (cell: CellPlace) => void;
  onFile?: (cell: CellPlace, file: File) => void;
  onBaseline: (column: ColumnShape) => void;
  onEveryonesBaseline?: (column: ColumnShape) => void;
  onAsk?: (cell: CellPlace) => void;
  ledger: Ledger;
  onBlock: (at: CellPlace, text: string) => void;
}

/** Least width of a column in each lens; with more columns than fit, the grid scrolls sideways. */
const WIDEST: Record<Lens, number> = { progress: 130, figures: 250, versus: 272, limits: 236 };
const TEST_PX = 196;
const BASELINE_PX = 189;
// A review with more rows scrolls within its sheet, so that the names of its configurations stay in sight.
const MOST_ROWS = 12;
// Collapsed borders do not stay with a cell that is held in place, so these cells draw their lines themselves.
const LINE_RIGHT = "after:absolute after:inset-y-0 after:-right-px after:w-px after:bg-line";
const LINE_BELOW = "before:absolute before:inset-x-0 before:-bottom-px before:h-px before:bg-line";
const ROW_PX: Record<Lens, number> = { progress: 42, figures: 58, versus: 42, limits: 56 };

interface Line {
  key: string;
  test: number;
  metric: string;
  name: string;
  detail: string;
}

/** Tests by configurations. One cell is in the tab order; arrows move, Enter opens, Space lays a second one over. */
export function Grid(props: Props) {
  const { review, matrix, lens } = props;
  const lines = linesOf(review, matrix, lens);
  const [at, setAt] = useState({ row: 0, column: 0 });
  const table = useRef<HTMLTableElement>(null);
  const typing = props.ledger.on && lens !== "progress" && lens !== "limits";
  const columns = review.columns;
  const here = { row: Math.min(at.row, lines.length - 1), column: Math.min(at.column, columns.length - 1) };
  const go = (row: number, column: number) => {
    const next = {
      row: Math.max(0, Math.min(lines.length - 1, row)),
      column: Math.max(0, Math.min(columns.length - 1, column)),
    };
    setAt(next);
    table.current?.querySelector<HTMLElement>(`[data-at="${next.row}.${next.column}"]`)?.focus();
  };
  const onKey = (event: KeyboardEvent, row: number, column: number, cell: CellPlace) => {
    const moves: Record<string, () => void> = {
      ArrowUp: () => go(row - 1, column),
      ArrowDown: () => go(row + 1, column),
      ArrowLeft: () => go(row, column - 1),
      ArrowRight: () => go(row, column + 1),
      Home: () => go(row, 0),
      End: () => go(row, columns.length - 1),
      Enter: () => (props.ledger.on ? props.ledger.begin(cell, "") : props.onChoose(cell, false)),
      " ": () => props.onChoose(cell, true),
    };
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return;
    const move = moves[event.key];
    // In the ledger every sign that can begin a reading begins one.
    const types = typing && /^[\d~≈<>≤≥+.,?ncrhvosx−-]$/.test(event.key);
    if (!move && !types) return;
    event.preventDefault();
    if (move) move();
    else props.ledger.begin(cell, event.key);
  };
  if (!lines.length || !columns.length) {
    return <p className="p-4 font-serif">This review has no tests or configurations yet.</p>;
  }
  const measure = { reach: axisReach(matrix), top: axisTop(matrix) };
  const tableRow = (line: Line, row: number) => (
    <tr key={line.key} aria-rowindex={row + 2} className="border border-line">
      <th scope="row" className={`sticky left-0 z-10 bg-sheet px-2.5 py-1 text-left ${LINE_RIGHT}`}>
        <div className="text-note font-semibold">{line.name}</div>
        <div className="text-small font-normal text-quiet">{line.detail}</div>
      </th>
      {columns.map((column, index) => {
        const cell = { test: line.test, metric: line.metric, column: column.id };
        return (
          <GridCell
            key={column.id}
            label={`${line.name}, ${line.detail}, on ${column.label}`}
            place={`${row}.${index}`}
            tabbable={row === here.row && index === here.column}
            chosen={props.chosen.some((one) => sameCell(one, cell))}
            onFocus={() => {
              setAt({ row, column: index });
              props.onFocus(cell);
            }}
            onKey={(event) => onKey(event, row, index, cell)}
            onClick={(beside) => (typing ? props.ledger.begin(cell, "") : props.onChoose(cell, beside))}
            onPaste={
              typing
                ? (text) => {
                    if (/[\t\n]/.test(text.trim())) props.onBlock(cell, text);
                    else props.ledger.begin(cell, text.trim());
                  }
                : undefined
            }
            cell={cell}
            onFile={props.onFile ? (file) => props.onFile?.(cell, file) : undefined}
          >
            {props.ledger.isAt(cell) ? (
              <LedgerInput
                ledger={props.ledger}
                label={`${line.name}, ${line.detail}, on ${column.label}`}
                onBlock={(text) => props.onBlock(cell, text)}
              />
            ) : (
              content(props, line, column, measure)
            )}
          </GridCell>
        );
      })}
    </tr>
  );
  const groups = Array.from({ length: Math.ceil(lines.length / GROUP) }, (_, at) =>
    lines.slice(at * GROUP, (at + 1) * GROUP),
  );
  return (
    <div
      className={`overflow-auto scroll-pt-24 scroll-pl-56 ${lines.length > MOST_ROWS ? "max-h-[calc(100vh-10.5rem)] min-h-60" : ""}`}
    >
      <table
        ref={table}
        role="grid"
        aria-rowcount={lines.length + 1}
        aria-label={`${review.question} ${lens}`}
        className="w-full table-fixed border-collapse bg-sheet"
        style={{ minWidth: leastWidth(columns.length, lens) }}
      >
        <colgroup>
          <col className="w-56" />
          {columns.map((column) => (
            <col
              key={column.id}
              className={lens === "versus" && column.id === matrix.baseline ? "w-54" : ""}
            />
          ))}
        </colgroup>
        <thead>
          <tr className="border border-line align-top">
            <th
              scope="col"
              className={`sticky top-0 left-0 z-30 bg-sheet px-2.5 py-1.5 text-left ${LINE_RIGHT} ${LINE_BELOW}`}
            >
              <div className="text-note font-semibold">{count(review.tests.length, "test")}</div>
              <div className="text-small font-normal text-quiet">{headline(matrix, lens)}</div>
            </th>
            {columns.map((column) => (
              <ColumnHead key={column.id} column={column} {...props} />
            ))}
          </tr>
        </thead>
        {groups.map((group, at) => (
          <RowGroup
            key={group[0]?.key}
            rows={group.length}
            columns={columns.length}
            rowHeight={ROW_PX[lens]}
            held={at === 0 || at === Math.floor(here.row / GROUP)}
          >
            {() => group.map((line, index) => tableRow(line, at * GROUP + index))}
          </RowGroup>
        ))}
      </table>
    </div>
  );
}

function leastWidth(columns: number, lens: Lens): number {
  const baseline = lens === "versus" ? BASELINE_PX : WIDEST[lens];
  return TEST_PX + baseline + (columns - 1) * WIDEST[lens];
}

function headline(matrix: MatrixShape, lens: Lens): string {
  const { kept, owed, running } = matrix.totals;
  if (lens === "progress") return `${kept} of ${kept + owed + running} passes`;
  if (lens === "limits") return "mean over the kept passes";
  return lens === "figures" ? "centre of the kept passes" : "ratio to the baseline";
}

function linesOf(review: ReviewShape, matrix: MatrixShape, lens: Lens): Line[] {
  if (lens === "progress" || lens === "limits") {
    return review.tests.map((test) => ({
      key: String(test.id),
      test: test.id,
      metric: test.shown[0] ?? "",
      name: test.name,
      detail: test.detail,
    }));
  }
  const repeated = (id: number) => (testOf(review, id)?.shown.length ?? 0) > 1;
  return matrix.rows.map((row) => {
    const test = testOf(review, row.test);
    const label = row.metric.startsWith("low_") ? (row.label.split(",")[0] ?? row.label) : row.label;
    const lower = row.direction === "lower" && !repeated(row.test) ? ", lower is better" : "";
    return {
      key: row.key,
      test: row.test,
      metric: row.metric,
      name: test?.name ?? "",
      detail: `${test?.detail} · ${label}${lower}`,
    };
  });
}

function content(
  props: Props,
  line: Line,
  column: ColumnShape,
  measure: { reach: number; top: Record<string, number> },
) {
  const { matrix, lens } = props;
  if (lens === "progress") {
    const progress = matrix.progress.find((row) => row.test === line.test);
    return <ProgressCellView cell={progress?.cells[String(column.id)]} />;
  }
  if (lens === "limits") {
    const limits = matrix.limits.find((row) => row.test === line.test);
    const cell = limits?.cells[String(column.id)];
    return cell ? (
      <LimitsCellView cell={cell} masked={limits.masked[String(column.id)]} />
    ) : (
      <Waiting matrix={matrix} test={line.test} column={column.id} kept="nothing recorded" />
    );
  }
  const row = matrix.rows.find((one) => one.key === line.key);
  const cell = row?.cells[String(column.id)];
  const apart = row?.apart[String(column.id)] ?? [];
  const gap = row?.gaps[String(column.id)];
  if (!row || !cell) {
    if (row && apart.length) return <Apart readings={apart} unit={row.unit} />;
    if (gap) return <span className="text-note text-quiet">{gap}</span>;
    return <Waiting matrix={matrix} test={line.test} column={column.id} />;
  }
  const shown =
    lens === "figures" ? (
      <FiguresCell row={row} cell={cell} position={column.position} top={measure.top[row.key] ?? 1} />
    ) : (
      <VersusCell
        row={row}
        cell={cell}
        margin={matrix.margin_pct}
        reach={measure.reach}
        isBaseline={column.id === matrix.baseline}
      />
    );
  if (!apart.length) return shown;
  return (
    <>
      {shown}
      <Apart readings={apart} unit={row.unit} />
    </>
  );
}

interface WaitingProps {
  matrix: MatrixShape;
  test: number;
  column: number;
  /** What is said of a cell whose passes are kept. */
  kept?: string;
}

/** Why a cell has no figure: owed, running, failed, or never asked for. Never zero. */
function Waiting({ matrix, test, column, kept }: WaitingProps) {
  const cell = matrix.progress.find((row) => row.test === test)?.cells[String(column)];
  const words = cell?.running.length
    ? "running"
    : cell?.owed
      ? `${cell.owed} owed`
      : cell?.pips.length
        ? (cell.pips.some((pip) => pip.state === "kept") && kept) ||
          (cell.pips[cell.pips.length - 1]?.words ?? "no figure")
        : "not run";
  return <span className="text-note text-quiet">{words}</span>;
}

function ColumnHead(props: Props & { column: ColumnShape }) {
  const { column, matrix } = props;
  const isBaseline = column.id === matrix.baseline;
  const items = [
    { label: "Compare the others with this", act: () => props.onBaseline(column), disabled: isBaseline },
    ...(props.onEveryonesBaseline
      ? [
          {
            label: "Make it everybody's baseline",
            act: () => props.onEveryonesBaseline?.(column),
            disabled: column.is_baseline,
          },
        ]
      : []),
  ];
  return (
    <th
      scope="col"
      className={`sticky top-0 z-20 border-l border-line bg-sheet px-2.5 py-1.5 text-left ${LINE_BELOW}`}
    >
      <Menu
        label={`${column.label}: choose the baseline`}
        items={items}
        trigger={
          <button type="button" className="flex items-center gap-2 text-body font-semibold">
            <Seal position={column.position} label={column.label} baseline={isBaseline} size={24} />
            {column.label}
          </button>
        }
      />
      <div className="mt-0.5 text-small font-normal text-quiet">{column.note}</div>
      <Beyond review={props.review} column={column} baseline={props.matrix.baseline} />
    </th>
  );
}

/** Readings that are shown and take part in nothing: about, over, under, remembered. */
function Apart({ readings, unit }: { readings: RowShape["apart"][string]; unit: string }) {
  const words = readings.map((one) => {
    const value = withUnit(one.value, unit);
    return `${one.bound || (one.method === "remembered" ? "" : "about")} ${value}`.trim();
  });
  const remembered = readings.some((one) => one.method === "remembered");
  return (
    <div className="text-small text-quiet">
      apart: {words.join(", ")}
      {remembered ? ", remembered" : ""}
    </div>
  );
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

interface CellProps {
  cell: CellPlace;
  onPaste?: (text: string) => void;
  label: string;
  place: string;
  tabbable: boolean;
  chosen: boolean;
  onFocus: () => void;
  onKey: (event: KeyboardEvent) => void;
  onClick: (beside: boolean) => void;
  onFile?: (file: File) => void;
  children: ReactNode;
}

function GridCell(props: CellProps) {
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) props.onFile?.(file);
  };
  return (
    <td
      role="gridcell"
      aria-label={props.label}
      aria-selected={props.chosen}
      tabIndex={props.tabbable ? 0 : -1}
      data-at={props.place}
      data-cell={`${props.cell.test}.${props.cell.metric}.${props.cell.column}`}
      onPaste={
        props.onPaste &&
        ((event) => {
          if (event.target !== event.currentTarget) return;
          event.preventDefault();
          props.onPaste?.(event.clipboardData.getData("text/plain"));
        })
      }
      onFocus={props.onFocus}
      onKeyDown={props.onKey}
      onClick={(event) => props.onClick(event.shiftKey || event.ctrlKey || event.metaKey)}
      onDragOver={(event) => {
        if (!props.onFile) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`h-[41px] cursor-pointer border-l border-line px-2.5 py-0.5 focus-visible:outline-offset-[-2px] ${props.chosen ? "shadow-[inset_0_0_0_2px_var(--color-mark)]" : "hover:bg-paper"} ${over ? "bg-band" : ""}`}
    >
      {over ? <span className="text-note">Drop: it becomes a pass of this cell</span> : props.children}
    </td>
  );
}
