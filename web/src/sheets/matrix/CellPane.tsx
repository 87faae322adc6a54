import { useQueries } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { PassShape } from "../../api/client";
import { cellQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Seal } from "../../marks/Seal";
import { useKeys } from "../../shell/keys";
import { Failed, Loading } from "../../shell/States";
import { columnOf, testOf } from "../../api/lookup";
import { CountsOf } from "./pane/CountsOf";
import { cellKey, chosenPasses, shownPass, type ChosenPass } from "./pane/chosen";
import { DistributionView } from "./pane/DistributionView";
import { HeldBackView } from "./pane/HeldBackView";
import { NotesView } from "./pane/NotesView";
import { CellFlags } from "./pane/CellFlags";
import { OtherMetrics } from "./pane/OtherMetrics";
import { TrustOf } from "./pane/TrustOf";
import { TalkOf } from "./pane/TalkOf";
import { TraceView } from "./pane/TraceView";
import { VIEW_NAMES, VIEWS, type PaneView } from "./pane/views";
import { PassList } from "./PassList";
import { SetAside } from "./SetAside";
import { Sentence } from "./Sentence";
import { Scale } from "./Scale";
import { SearchView } from "./SearchView";
import { Stopwatch } from "./Stopwatch";
import { RunningView } from "../running/RunningView";
import { act } from "../../api/acts";
import { useAct } from "../../design/useAct";
import type { CellPlace } from "./place";
import { useMatrix, useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { TabList, TabPanel, Tabs } from "../../design/Tabs";

interface Props {
  cells: CellPlace[];
  onClose: () => void;
  onAsk: (cell: CellPlace) => void;
  onFile: (cell: CellPlace, file: File) => void;
}

/** What the chosen cells hold: their traces, distribution, what held them back and how they were run; and the passes. */
export function CellPane({ cells, onClose, onAsk, onFile }: Props) {
  const may = useMay();
  const review = useReview();
  const matrix = useMatrix();
  const details = useQueries({ queries: cells.map((cell) => cellQuery(review.id, cell.test, cell.column)) });
  const [shown, setShown] = useState<Record<string, string>>({});
  const [timing, setTiming] = useState(false);
  const [asideOf, setAsideOf] = useState<PassShape | null>(null);
  const [over, setOver] = useState<string[]>([]);
  const [view, setView] = useState<PaneView>("trace");
  const pane = useRef<HTMLElement>(null);
  const first = cells[0];
  const key = cellKey;
  const passes = cells.map((cell, at) => shownPass(details[at]?.data, shown[key(cell)]));
  const chosen = chosenPasses(
    review,
    cells,
    details.map((detail) => detail.data),
    shown,
    over,
  );
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
  const layAll = () => {
    const all = details.flatMap((detail) =>
      (detail.data?.passes ?? []).filter((pass) => pass.kept).map((pass) => pass.id),
    );
    setOver(over.length ? [] : all);
  };
  useKeys({
    ".": () => step(1),
    ",": () => step(-1),
    x: () => passes[0] && may("set_aside") && setAsideOf(passes[0]),
    a: () => layAll(),
    v: () => setView(VIEWS[(VIEWS.indexOf(view) + 1) % VIEWS.length] ?? "trace"),
  });
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
          <TalkOf cell={first} test={test} pass={passes[0]} />
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
            <UnderWay key={key(cell)} cell={cell} searches={test?.kind === "load_search"} />
          ))}
          {test?.kind === "load_search" &&
            passes.map(
              (pass) => pass && pass.attempts > 0 && <SearchView key={pass.id} of={{ pass: pass.id }} />,
            )}
          <Tabs value={view} onChange={(next) => setView(next as PaneView)}>
            <Views over={over.length > 0} onOver={layAll} />
            <TabPanel value={view}>
              {details.some((detail) => detail.isPending) ? (
                <Loading what="Reading the passes" />
              ) : (
                <Shown view={view} cells={cells} chosen={chosen} />
              )}
            </TabPanel>
          </Tabs>
        </div>
        <div className="border-l border-line pl-5">
          {test && <CountsOf test={test} details={details.map((d) => d.data)} />}
          {cells.map((cell) => (
            <Sentence key={`${key(cell)}.${cell.metric}`} cell={cell} />
          ))}
          {cells.length > 1 && <OtherMetrics cells={cells} />}
          <CellFlags cells={cells} />
          <Scale
            cells={cells}
            details={details.map((detail) => detail.data)}
            chosen={chosen.map(({ pass }) => pass.id)}
            onChoose={(cell, id) => setShown((all) => ({ ...all, [key(cell)]: id }))}
          />
          {test && <TrustOf test={test} metric={first.metric} />}
          {cells.map((cell, at) => (
            <PassList
              key={key(cell) + cell.metric}
              cell={cell}
              detail={details[at]?.data}
              shown={passes[at]?.id}
              titled={cells.length > 1}
              onShow={(id) => setShown((all) => ({ ...all, [key(cell)]: id }))}
              onAside={may("set_aside") ? setAsideOf : undefined}
              over={over}
              onOver={(id) =>
                setOver((all) => (all.includes(id) ? all.filter((one) => one !== id) : [...all, id]))
              }
            />
          ))}
        </div>
      </div>
      {timing && test && (
        <Stopwatch
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
  cell: CellPlace;
  searches: boolean;
}

/** What runs in a cell just now; an owed search can be begun by hand. */
function UnderWay({ cell, searches }: UnderWayProps) {
  const may = useMay();
  const matrix = useMatrix();
  const run = useAct();
  const progress = matrix.progress.find((row) => row.test === cell.test)?.cells[String(cell.column)];
  const running = progress?.running[0];
  if (running) {
    return (
      <div className="mb-4">
        <RunningView entry={running.entry} />
      </div>
    );
  }
  if (!searches || !progress?.next_owed || !may("record")) return null;
  const begin = () =>
    void run(() => act("POST", `/api/docket/${progress.next_owed}/search`), {
      said: "The search is yours; no bench will take it.",
      made: "pass",
    });
  return (
    <Button className="mb-3" onClick={begin}>
      Search by hand
    </Button>
  );
}

interface ViewsProps {
  over: boolean;
  onOver: () => void;
}

function Views({ over, onOver }: ViewsProps) {
  return (
    <div className="mb-2 flex items-center gap-4 border-b border-line">
      <TabList
        label="What of the cell"
        look="lined"
        tabs={VIEWS.map((key) => ({ key, name: VIEW_NAMES[key] }))}
      />
      <Button kind="link" aria-pressed={over} className="ml-auto" onClick={onOver}>
        {over ? "one pass alone" : "lay all passes over one another"}
      </Button>
    </div>
  );
}

interface ShownProps {
  view: PaneView;
  cells: CellPlace[];
  chosen: ChosenPass[];
}

function Shown({ view, cells, chosen }: ShownProps) {
  const review = useReview();
  const test = testOf(review, cells[0]?.test ?? 0);
  if (view === "distribution") return <DistributionView test={test} chosen={chosen} />;
  if (view === "held back") return <HeldBackView cells={cells} chosen={chosen} />;
  if (view === "notes") return <NotesView chosen={chosen} />;
  return <TraceView test={test} chosen={chosen} />;
}
