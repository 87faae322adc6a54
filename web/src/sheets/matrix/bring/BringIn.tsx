import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../../api/acts";
import { csrfToken, problemOf, type ReviewShape, type Shapes } from "../../../api/client";
import { keys } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { bytes, count } from "../../../marks/words";
import { FileItem, type Choice } from "./FileItem";

export type ImportShape = Shapes["ImportShape"];

interface Props {
  review: ReviewShape;
  onClose: () => void;
}

/** Files or a whole folder as an archive: looked at, told where they go, then stored in the background. */
export function BringIn({ review, onClose }: Props) {
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
        <Sorting
          review={review}
          job={job}
          started={started}
          onStarted={() => setStarted(true)}
          onClose={onClose}
        />
      ) : (
        <>
          <p className="mb-3">
            Frame times and sensor logs as delimited text, JSON Lines or plain text; one file, or a whole
            folder as a ZIP archive. What is in it is looked at first; nothing is stored until you say where
            it goes.
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

function Sorting({ review, job, started, onStarted, onClose }: SortingProps) {
  const client = useQueryClient();
  const path = `/api/reviews/${review.id}/imports/${job.id}`;
  const [choices, setChoices] = useState<Choice[]>(() =>
    job.items.map((item) => ({ test: item.test, column: item.column, columns: item.columns })),
  );
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
  const takeUses = (at: number) => {
    const uses = new Map(choices[at]?.columns.map((use) => [use.column, use]));
    setChoices((all) =>
      all.map((one) => ({
        ...one,
        columns: one.columns.map((use) => ({ ...use, ...pick(uses.get(use.column)) })),
      })),
    );
  };
  const begin = async () => {
    try {
      const items = choices.map((one, index) => ({
        index,
        test: one.test,
        column: one.column,
        columns: one.columns.map(({ column, role, name, unit }) => ({ column, role, name, unit })),
      }));
      await act("PATCH", path, { items });
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
            {isOver(state) ? (state.state === "cancelled" ? "Broken off: " : "Done: ") : "Storing: "}
            <strong>
              {state.done} of {state.wanted}
            </strong>{" "}
            files{failed.length > 0 && `, ${failed.length} of them could not be taken`}.
          </p>
          <progress className="w-full" value={state.done} max={Math.max(1, state.wanted)} />
        </div>
      )}
      <ul className="max-h-[52vh] overflow-auto border-t border-line">
        {job.items.map((item, at) => {
          const choice = choices[at];
          return (
            choice && (
              <FileItem
                key={item.name}
                review={review}
                item={state?.items[at] ?? item}
                choice={choice}
                fixed={started}
                open={job.items.length === 1}
                several={job.items.length > 1}
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
        {!isOver(state) && (
          <Button onClick={() => void drop()}>{started ? "Break it off" : "Not now"}</Button>
        )}
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

function isOver(job: ImportShape | undefined): boolean {
  return job?.state === "done" || job?.state === "cancelled";
}

function pick(use: Choice["columns"][number] | undefined) {
  return use ? { role: use.role, name: use.name, unit: use.unit } : {};
}
