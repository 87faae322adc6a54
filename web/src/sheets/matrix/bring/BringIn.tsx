import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { act } from "../../../api/acts";
import { csrfToken, problemOf, type Shapes } from "../../../api/client";
import { keys } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { bytes, count } from "../../../marks/words";
import { CellOf, FileItem, type Choice } from "./FileItem";
import { useReview } from "../../../api/review";

export type ImportShape = Shapes["ImportShape"];

interface Props {
  onClose: () => void;
}

/** Files or a whole folder as an archive: looked at, told where they go, then stored in the background. */
export function BringIn({ onClose }: Props) {
  const review = useReview();
  const [job, setJob] = useState<ImportShape | null>(null);
  const [reading, setReading] = useState("");
  const [problem, setProblem] = useState("");
  const [started, setStarted] = useState(false);
  const receive = async (file: File) => {
    setReading(file.name);
    setProblem("");
    const form = new FormData();
    form.append("file", file);
    try {
      const response = await fetch(`/api/reviews/${review.id}/imports/${crypto.randomUUID()}`, {
        method: "PUT",
        body: form,
        headers: { "X-CSRFToken": csrfToken() },
      });
      if (!response.ok) throw await problemOf(response);
      setJob((await response.json()) as ImportShape);
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setReading("");
    }
  };
  const leave = () => {
    // An upload that nobody has decided on is of no use to anybody.
    if (job && !started)
      void act("DELETE", `/api/reviews/${review.id}/imports/${job.id}`).catch(() => undefined);
    onClose();
  };
  return (
    <Dialog open onClose={leave} title="Bring in files" wide>
      {job ? (
        <Sorting job={job} started={started} onStarted={() => setStarted(true)} onClose={onClose} />
      ) : (
        <>
          <p className="mb-3">
            Frame times and sensor logs as delimited text, JSON Lines or plain text; one file, or a whole
            folder as a ZIP archive; a gzip file is unpacked. What is in it is looked at first; nothing is
            stored until you say where it goes.
          </p>
          <label
            className="block cursor-pointer border border-dashed border-ink bg-paper p-8 text-center"
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              event.preventDefault();
              const file = event.dataTransfer.files[0];
              if (file) void receive(file);
            }}
          >
            {reading ? `Reading ${reading} …` : "Drop a file here, or choose one"}
            <input
              type="file"
              className="sr-only"
              disabled={Boolean(reading)}
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) void receive(file);
              }}
            />
          </label>
          {problem && (
            <p role="alert" className="mt-3 text-mark">
              {problem}
            </p>
          )}
        </>
      )}
    </Dialog>
  );
}

interface SortingProps extends Props {
  job: ImportShape;
  started: boolean;
  onStarted: () => void;
}

function Sorting({ job, started, onStarted, onClose }: SortingProps) {
  const review = useReview();
  const client = useQueryClient();
  const path = `/api/reviews/${review.id}/imports/${job.id}`;
  const [choices, setChoices] = useState<Choice[]>(() =>
    job.items.map((item) => ({
      test: item.test,
      column: item.column,
      columns: item.columns,
      everyS: item.every_s ?? null,
    })),
  );
  const [told, setTold] = useState(job.items);
  const [ticked, setTicked] = useState<Set<number>>(new Set());
  const [problem, setProblem] = useState("");
  const now = useQuery({
    queryKey: ["import", job.id],
    queryFn: () => act<ImportShape>("GET", path),
    enabled: started,
    refetchInterval: (query) => (isOver(query.state.data) ? false : 1000),
  });
  const state = started ? now.data : undefined;
  const wanted = choices.filter(
    (one, at) => !job.items[at]?.problem && one.test !== null && one.column !== null,
  );
  const change = (at: number, next: Partial<Choice>) =>
    setChoices((all) => all.map((one, i) => (i === at ? { ...one, ...next } : one)));
  // What a choice of columns would lose is told by the server, as soon as the hand rests.
  const readings = JSON.stringify(choices.map((one) => [uses(one), one.everyS]));
  const first = useRef(readings);
  useEffect(() => {
    if (started || readings === first.current) return;
    const timer = setTimeout(() => {
      act<ImportShape>("PATCH", path, { items: choices.map(chosen) })
        .then((answer) => setTold(answer.items))
        .catch((error: unknown) => setProblem((error as Error).message));
    }, 500);
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a change of a cell alone tells nothing new
  }, [readings, started]);
  const tick = (at: number) =>
    setTicked((now) => {
      const next = new Set(now);
      if (!next.delete(at)) next.add(at);
      return next;
    });
  const assign = (next: Partial<Choice>) => [...ticked].forEach((at) => change(at, next));
  const readable = job.items.flatMap((item, at) => (item.problem ? [] : [at]));
  const takeUses = (at: number) => {
    const taken = new Map(choices[at]?.columns.map((use) => [use.column, use]));
    setChoices((all) =>
      all.map((one) => ({
        ...one,
        columns: one.columns.map((use) => ({ ...use, ...pick(taken.get(use.column)) })),
      })),
    );
  };
  const begin = async () => {
    try {
      await act("PATCH", path, { items: choices.map(chosen) });
      await act("POST", `${path}/start`);
      onStarted();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const close = () => {
    for (const queryKey of [keys.matrix(review.id), keys.cells(review.id), keys.reviews])
      void client.invalidateQueries({ queryKey });
    onClose();
  };
  const drop = async () => {
    await act("DELETE", path).catch(() => undefined);
    if (started) void now.refetch();
    else close();
  };
  const failed = state?.items.filter((item) => item.state === "failed") ?? [];
  return (
    <div>
      <p className="mb-2 text-note text-quiet">
        {job.name}: {count(job.items.length, "file")},{" "}
        {bytes(job.items.reduce((sum, item) => sum + item.size, 0))}. Where a file goes was guessed from its
        name; what its columns are, from how they behave.
      </p>
      {state && (
        <div className="mb-3" role="status">
          <p>
            {isOver(state) ? (state.state === "cancelled" ? "Cancelled: " : "Done: ") : "Storing: "}
            <strong>
              {state.done} of {state.wanted}
            </strong>{" "}
            files{failed.length > 0 && `, ${failed.length} of them could not be taken`}.
          </p>
          <progress className="w-full" value={state.done} max={Math.max(1, state.wanted)} />
        </div>
      )}
      {!started && job.items.length > 1 && (
        <div className="mb-2 flex flex-wrap items-center gap-2 text-note">
          <Button
            kind="link"
            onClick={() => setTicked(new Set(ticked.size === readable.length ? [] : readable))}
          >
            {ticked.size === readable.length ? "choose none" : "choose all"}
          </Button>
          {ticked.size > 0 && (
            <>
              <span>{count(ticked.size, "file")} chosen:</span>
              <CellOf of="the chosen files" cell={shared(choices, ticked)} onChange={assign} />
            </>
          )}
        </div>
      )}
      <ul className="max-h-[52vh] overflow-auto border-t border-line">
        {job.items.map((item, at) => {
          const choice = choices[at];
          return (
            choice && (
              <FileItem
                key={item.name}
                item={state?.items[at] ?? told[at] ?? item}
                choice={choice}
                fixed={started}
                open={job.items.length === 1}
                several={job.items.length > 1}
                ticked={ticked.has(at)}
                onTick={() => tick(at)}
                onChange={(next) => change(at, next)}
                onForAll={() => takeUses(at)}
              />
            )
          );
        })}
      </ul>
      {problem && (
        <p role="alert" className="mt-2 text-note text-mark">
          {problem}
        </p>
      )}
      <div className="mt-3 flex items-center gap-3">
        {!started && (
          <Button kind="strong" disabled={!wanted.length} onClick={() => void begin()}>
            Store {count(wanted.length, "pass")}
          </Button>
        )}
        {started && isOver(state) && (
          <Button kind="strong" onClick={close}>
            Close
          </Button>
        )}
        {!isOver(state) && <Button onClick={() => void drop()}>{started ? "Cancel" : "Not now"}</Button>}
        {started && !isOver(state) && (
          <span className="text-note text-quiet">It goes on when you close this.</span>
        )}
        {!started && wanted.length < job.items.length && (
          <span className="text-note text-quiet">
            {count(job.items.length - wanted.length, "file")} without a cell{" "}
            {wanted.length === job.items.length - 1 ? "is" : "are"} left out.
          </span>
        )}
      </div>
    </div>
  );
}

function uses(choice: Choice) {
  return choice.columns.map(({ column, role, name, unit }) => ({ column, role, name, unit }));
}

function chosen(choice: Choice, index: number) {
  return {
    index,
    test: choice.test,
    column: choice.column,
    columns: uses(choice),
    every_s: choice.everyS,
  };
}

/** What the chosen files have in common, to begin with. */
function shared(choices: Choice[], ticked: Set<number>) {
  const these = [...ticked].flatMap((at) => choices[at] ?? []);
  const same = (key: "test" | "column") =>
    these.every((one) => one[key] === these[0]?.[key]) ? (these[0]?.[key] ?? null) : null;
  return { test: same("test"), column: same("column") };
}

function isOver(job: ImportShape | undefined): boolean {
  return job?.state === "done" || job?.state === "cancelled";
}

function pick(use: Choice["columns"][number] | undefined) {
  return use ? { role: use.role, name: use.name, unit: use.unit } : {};
}
