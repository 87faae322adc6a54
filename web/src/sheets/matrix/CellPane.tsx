import { useQueries } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { CellDetail, MatrixShape, PassShape, ReviewShape } from "../../api/client";
import { cellQuery, traceQuery, type Stretch } from "../../api/queries";
import { Button } from "../../design/Button";
import { Seal } from "../../marks/Seal";
import { Trace, type TracedCell } from "../../marks/Trace";
import { useKeys } from "../../shell/keys";
import { Failed, Loading } from "../../shell/States";
import { columnOf, testOf } from "../Matrix";
import { PassList } from "./PassList";
import { SetAside } from "./SetAside";
import { Sentence } from "./Sentence";
import { Scale } from "./Scale";
import { SEARCH_STALE, SearchView } from "./SearchView";
import { Stopwatch } from "./Stopwatch";
import { RunningView } from "../running/RunningView";
import { act } from "../../api/acts";
import { useAct } from "../../design/useAct";
import type { CellPlace } from "./place";

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  cells: CellPlace[];
  may: (act: string) => boolean;
  onClose: () => void;
  onAsk: (cell: CellPlace) => void;
  onFile: (cell: CellPlace, file: File) => void;
}

/** What the chosen cells hold: the trace with its sensors, the passes on a scale, and the passes themselves. */
export function CellPane({ review, matrix, cells, may, onClose, onAsk, onFile }: Props) {
  const details = useQueries({ queries: cells.map((cell) => cellQuery(review.id, cell.test, cell.column)) });
  const [shown, setShown] = useState<Record<string, string>>({});
  const [timing, setTiming] = useState(false);
  const [asideOf, setAsideOf] = useState<PassShape | null>(null);
  const [stretch, setStretch] = useState<Stretch | null>(null);
  const pane = useRef<HTMLElement>(null);
  const first = cells[0];
  const key = (cell: CellPlace) => `${cell.test}.${cell.column}`;
  const passes = cells.map((cell, at) => shownPass(details[at]?.data, shown[key(cell)]));
  const traced = useQueries({
    queries: passes.map((pass) => ({ ...traceQuery(pass?.id ?? "", stretch), enabled: hasTrace(pass) })),
  });
  const opened = first ? key(first) : "";
  useEffect(() => {
    pane.current?.scrollIntoView({ block: "nearest" });
  }, [opened]);
  const step = (by: number) => {
    const detail = details[0]?.data;
    const pass = passes[0];
    if (!first || !detail || !pass) return;
    const at = detail.passes.findIndex((one) => one.id === pass.id);
    const next = detail.passes[(at + by + detail.passes.length) % detail.passes.length];
    if (next) setShown((all) => ({ ...all, [key(first)]: next.id }));
  };
  useKeys({
    ".": () => step(1),
    ",": () => step(-1),
    x: () => passes[0] && may("set_aside") && setAsideOf(passes[0]),
  });
  const onStretch = useCallback((next: Stretch | null) => setStretch(next), []);
  if (!first) return null;
  const test = testOf(review, first.test);
  const failed = details.find((detail) => detail.isError);
  const times = matrix.rows
    .filter((row) => row.test === first.test && row.unit === "s")
    .map((row) => ({ metric: row.metric, label: row.label }));
  return (
    <section
      ref={pane}
      aria-label="Cell"
      className="-mx-5 mt-3 border-t-2 border-ink bg-sheet px-5 pt-2 pb-6"
    >
      <div className="mb-2 flex items-center gap-3">
        <h2 className="font-serif text-lead font-semibold">{test?.name}</h2>
        <span className="text-note text-quiet">{test?.detail}</span>
        {cells.map((cell, at) => {
          const column = columnOf(review, cell.column);
          return (
            column && (
              <span key={`${key(cell)}.${cell.metric}`} className="flex items-center gap-1 text-note">
                <Seal
                  position={column.position}
                  label={column.label}
                  baseline={column.id === matrix.baseline}
                  size={20}
                />
                {column.label}
                {passes[at] && <span className="text-quiet">pass {passes[at]?.number}</span>}
              </span>
            )
          );
        })}
        <span className="ml-auto flex gap-3">
          {may("ask_for_passes") && (
            <Button kind="link" onClick={() => onAsk(first)}>
              Ask for passes
            </Button>
          )}
          {may("record") && times.length > 0 && (
            <Button kind="link" onClick={() => setTiming(true)}>
              Stopwatch
            </Button>
          )}
          {may("import_passes") && test?.kind === "scene" && (
            <label className="cursor-pointer text-note underline decoration-line">
              Add a file of frame times
              <input
                type="file"
                className="sr-only"
                onChange={(event) => {
                  const file = event.target.files?.[0];
                  event.target.value = "";
                  if (file) onFile(first, file);
                }}
              />
            </label>
          )}
          <Button kind="bare" onClick={onClose} aria-label="Close the cell pane">
            ×
          </Button>
        </span>
      </div>
      {failed?.error && <Failed error={failed.error} again={() => void failed.refetch()} />}
      <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_320px]">
        <div className="min-w-0">
          {cells.map((cell) => (
            <UnderWay
              key={key(cell)}
              matrix={matrix}
              cell={cell}
              searches={test?.kind === "load_search"}
              may={may}
            />
          ))}
          {test?.kind === "load_search" &&
            passes.map(
              (pass) =>
                pass && pass.attempts > 0 && <SearchView key={pass.id} of={{ pass: pass.id }} may={may} />,
            )}
          <Traces
            cells={cells}
            review={review}
            passes={passes}
            traced={traced}
            stretch={stretch}
            onStretch={onStretch}
          />
        </div>
        <div className="border-l border-line pl-5">
          {cells.map((cell) => (
            <Sentence key={`${key(cell)}.${cell.metric}`} review={review} matrix={matrix} cell={cell} />
          ))}
          <Scale
            review={review}
            matrix={matrix}
            cells={cells}
            details={details.map((detail) => detail.data)}
            chosen={passes.flatMap((pass) => (pass ? [pass.id] : []))}
            onChoose={(cell, id) => setShown((all) => ({ ...all, [key(cell)]: id }))}
          />
          {cells.map((cell, at) => (
            <PassList
              key={key(cell) + cell.metric}
              review={review}
              cell={cell}
              detail={details[at]?.data}
              shown={passes[at]?.id}
              titled={cells.length > 1}
              onShow={(id) => setShown((all) => ({ ...all, [key(cell)]: id }))}
              onAside={may("set_aside") ? setAsideOf : undefined}
              may={may}
            />
          ))}
        </div>
      </div>
      {timing && test && (
        <Stopwatch
          review={review}
          cell={first}
          phases={times}
          title={`${test.name} on ${columnOf(review, first.column)?.label}`}
          onClose={() => setTiming(false)}
        />
      )}
      {asideOf && <SetAside review={review.id} pass={asideOf} onClose={() => setAsideOf(null)} />}
    </section>
  );
}

interface UnderWayProps {
  matrix: MatrixShape;
  cell: CellPlace;
  searches: boolean;
  may: (act: string) => boolean;
}

/** What runs in a cell just now; an owed search can be begun by hand. */
function UnderWay({ matrix, cell, searches, may }: UnderWayProps) {
  const run = useAct();
  const progress = matrix.progress.find((row) => row.test === cell.test)?.cells[String(cell.column)];
  const running = progress?.running[0];
  if (running) {
    return (
      <div className="mb-4">
        <RunningView entry={running.entry} may={may} />
      </div>
    );
  }
  if (!searches || !progress?.next_owed || !may("record")) return null;
  const begin = () =>
    void run(() => act("POST", `/api/docket/${progress.next_owed}/search`), {
      said: "The search is yours; no bench will take it.",
      stale: SEARCH_STALE,
    });
  return (
    <Button className="mb-3" onClick={begin}>
      Search by hand
    </Button>
  );
}

function hasTrace(pass: PassShape | undefined): boolean {
  return Boolean(pass?.captures.some((capture) => capture.kind !== "file"));
}

/** The pass whose trace is drawn: the one asked for, else the last that counts, else the last. */
function shownPass(detail: CellDetail | undefined, asked: string | undefined): PassShape | undefined {
  if (!detail) return undefined;
  const kept = detail.passes.filter((pass) => pass.outcome === "completed" && !pass.set_aside);
  return (
    detail.passes.find((pass) => pass.id === asked) ??
    kept[kept.length - 1] ??
    detail.passes[detail.passes.length - 1]
  );
}

interface TracesProps {
  cells: CellPlace[];
  review: ReviewShape;
  passes: (PassShape | undefined)[];
  traced: { data?: TracedCell["trace"]; isError: boolean; error: Error | null }[];
  stretch: Stretch | null;
  onStretch: (stretch: Stretch | null) => void;
}

function Traces({ cells, review, passes, traced, stretch, onStretch }: TracesProps) {
  const drawn: TracedCell[] = cells.flatMap((cell, at) => {
    const column = columnOf(review, cell.column);
    const trace = traced[at]?.data;
    return column && trace && hasTrace(passes[at])
      ? [{ position: column.position, label: column.label, trace, marks: passes[at]?.marks }]
      : [];
  });
  const failed = traced.find((one) => one.isError);
  if (failed?.error) return <p className="text-mark">{failed.error.message}</p>;
  const wanted = passes.filter(hasTrace).length;
  if (wanted > 0 && drawn.length === wanted)
    return <Trace cells={drawn} stretch={stretch} onStretch={onStretch} />;
  if (passes.some(hasTrace)) return <Loading what="Reading the trace" />;
  return (
    <p className="font-serif text-quiet">
      {passes.some(Boolean)
        ? "This pass has no trace."
        : "No pass here yet. Ask for some, or drop a file of frame times on the cell."}
    </p>
  );
}
