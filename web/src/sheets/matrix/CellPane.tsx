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
        <Traces
          cells={cells}
          review={review}
          passes={passes}
          traced={traced}
          stretch={stretch}
          onStretch={onStretch}
        />
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
            />
          ))}
        </div>
      </div>
      {asideOf && <SetAside review={review.id} pass={asideOf} onClose={() => setAsideOf(null)} />}
    </section>
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
      ? [{ position: column.position, label: column.label, trace }]
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
