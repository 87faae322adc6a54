import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
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
        <Note key={one.metric} metric={one.metric} label={one.label} words={one.words} />
      ))}
    </Dialog>
  );
}

function Note({ metric, label, words }: { metric: string; label: string; words: string }) {
  const may = useMay();
  const act = useAct();
  const [text, setText] = useState(words);
  const edits = may("edit_workloads");
  const save = () =>
    void act(
      async () =>
        api.PUT("/api/metric-notes/{metric}", { params: { path: { metric } }, body: { words: text } }),
      { said: `${label} is explained so from the next record on.`, made: "workloads" },
    );
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
      {edits && text !== words && (
        <Button className="mt-1" onClick={save}>
          Save
        </Button>
      )}
    </div>
  );
}
