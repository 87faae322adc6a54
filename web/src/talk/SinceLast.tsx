import { useQuery, useQueryClient } from "@tanstack/react-query";
import { act } from "../api/acts";
import { useReview } from "../api/review";
import { Button } from "../design/Button";
import { useNotices } from "../design/Notices";
import { When } from "../design/When";
import { count } from "../marks/words";
import { sinceQuery } from "./useLooking";

/** What others and the benches did since one was here last, until it has been read. */
export function SinceLast() {
  const review = useReview();
  const client = useQueryClient();
  const { warn } = useNotices();
  const query = sinceQuery(review.id);
  const { data } = useQuery(query);
  if (!data?.since) return null;
  const seen = () =>
    act("DELETE", `/api/reviews/${review.id}/since`)
      .then(() => client.setQueryData(query.queryKey, { ...data, since: null }))
      .catch((error: Error) => warn(error.message));
  const told = [
    data.passes && `${count(data.passes, "pass")} came in`,
    data.failed && `${count(data.failed, "pass")} did not complete`,
    data.remarks && `${count(data.remarks, "remark")} on passes`,
    data.comments && count(data.comments, "comment"),
    ...data.acts.map(
      (one) => `${one.act}${one.count > 1 ? ` ${one.count} times` : ""} by ${one.by || "the demo"}`,
    ),
  ].filter(Boolean);
  const left = [
    data.owed && `${count(data.owed, "pass")} ${data.owed === 1 ? "is" : "are"} owed`,
    data.running && `${data.running} running`,
  ].filter(Boolean);
  const named = (failed: (typeof data.failures)[number]) => {
    const test = review.tests.find((one) => one.id === failed.test);
    const column = review.columns.find((one) => one.id === failed.column);
    return `${test?.name ?? ""} on ${column?.label ?? ""}, pass ${failed.number}: ${failed.words}`;
  };
  return (
    <section
      aria-label="Since you were here"
      className="mb-2 border-l-3 border-ink bg-sheet px-3 py-1.5 text-note print:hidden"
    >
      <p className="flex flex-wrap items-baseline gap-x-4">
        <span>
          <strong>Since you were here</strong>{" "}
          <span className="text-quiet">
            (<When at={data.since} />)
          </span>
          : {told.length ? told.join("; ") : "nothing happened"}
          {left.length > 0 && <span className="text-quiet"> · now {left.join(", ")}</span>}
        </span>
        <Button kind="link" onClick={() => void seen()}>
          read
        </Button>
      </p>
      {data.failures.length > 0 && (
        <ul className="list-disc pl-6">
          {data.failures.map((one) => (
            <li key={`${one.test} ${one.column} ${one.number}`}>{named(one)}</li>
          ))}
        </ul>
      )}
    </section>
  );
}
