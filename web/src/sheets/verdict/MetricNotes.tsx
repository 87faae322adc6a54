import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import { Problem, type MetricNoteShape } from "../../api/client";
import { metricNotesQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { useAct } from "../../design/useAct";
import { Failed, Loading } from "../../shell/States";

/** What readers are told of each metric; written once, it is used by every record from then on. */
export function MetricNotes({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const query = useQuery(metricNotesQuery(review.id));
  return (
    <Dialog open onClose={onClose} title="What the metrics mean, for readers" wide>
      <p className="mb-3 text-note text-quiet">
        In words for people who know none of the trade. They hold for all reviews; records that are published
        already stay as they are. Left empty, the usual words come back.
      </p>
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      {query.isPending && <Loading />}
      {query.data?.map((one) => (
        <Note key={one.metric} note={one} />
      ))}
    </Dialog>
  );
}

function Note({ note }: { note: MetricNoteShape }) {
  const { metric, label } = note;
  const may = useMay();
  const run = useAct();
  // What the text is written on; whoever saves on another one is shown it first.
  const [base, setBase] = useState(note);
  const [text, setText] = useState(note.words);
  const [stored, setStored] = useState(false);
  const [theirs, setTheirs] = useState("");
  const edits = may("edit_workloads");
  const save = () =>
    void run(
      async () => {
        try {
          await act("PUT", `/api/metric-notes/${encodeURIComponent(metric)}`, { words: text }, base.tag);
          setTheirs("");
          setStored(true);
        } catch (error) {
          if (error instanceof Problem && error.status === 412) {
            const current = error.members.current as { words: string; tag: string };
            setTheirs(current.words || "the usual words");
            setBase({ ...base, tag: current.tag });
          }
          throw error;
        }
      },
      { said: `${label} is explained so from the next record on.`, made: "workloads" },
    );
  if (note.tag !== base.tag && (stored || text === base.words)) {
    setBase(note);
    setText(note.words);
    setStored(false);
  }
  return (
    <div className="mb-3">
      <label className="block text-note font-semibold">
        {label}
        <textarea
          value={text}
          rows={2}
          maxLength={600}
          readOnly={!edits}
          onChange={(event) => setText(event.target.value)}
          className="mt-0.5 block w-full border border-ink bg-sheet px-2 py-1 font-normal"
        />
      </label>
      {theirs && (
        <p role="alert" className="mt-1 border border-mark p-2 text-note">
          Somebody wrote meanwhile: <span className="font-serif">{theirs}</span>
        </p>
      )}
      {edits && text !== base.words && (
        <Button className="mt-1" onClick={save}>
          {theirs ? "Save mine instead" : "Save"}
        </Button>
      )}
    </div>
  );
}
