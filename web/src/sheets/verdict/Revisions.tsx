import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { revisionsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Dialog } from "../../design/Dialog";
import { When } from "../../design/When";
import { Failed, Loading } from "../../shell/States";

const CHANGES: Record<string, [string, string, string]> = {
  same: [" ", "", ""],
  gone: ["−", "taken out: ", "text-worse line-through"],
  new: ["+", "new: ", "font-semibold"],
};

/** Earlier versions of the text, and what two of them differ in. */
export function Revisions({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const [pair, setPair] = useState<{ before?: number; after?: number }>({});
  const query = useQuery(revisionsQuery(review.id, pair.before, pair.after));
  if (query.isError) {
    return (
      <Dialog open onClose={onClose} title="Earlier versions">
        <Failed error={query.error} again={() => void query.refetch()} />
      </Dialog>
    );
  }
  const found = query.data;
  const choose = (which: "before" | "after", words: string) => (
    <label className="text-note">
      {words}{" "}
      <select
        className="border border-ink bg-sheet px-1 py-0.5"
        value={found?.[which]}
        onChange={(event) =>
          setPair({
            before: found?.before ?? 0,
            after: found?.after ?? 0,
            ...pair,
            [which]: Number(event.target.value),
          })
        }
      >
        {found?.revisions.map((one) => (
          <option key={one.version} value={one.version}>
            {one.version}
            {one.by && `, ${one.by}`}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <Dialog open onClose={onClose} title="Earlier versions" wide>
      {!found ? (
        <Loading />
      ) : (
        <>
          <p className="mb-3 flex flex-wrap items-baseline gap-4">
            {choose("before", "Version")}
            {choose("after", "against")}
            <span className="text-note text-quiet">
              last changed <When at={found.revisions.find((one) => one.version === found.after)?.at ?? ""} />
            </span>
          </p>
          <ul aria-label="Differences" className="font-serif">
            {found.lines.map((line, at) => {
              const [sign, words, look] = CHANGES[line.change] ?? [" ", "", ""];
              return (
                <li key={at} className="flex gap-3 py-0.5">
                  <span aria-hidden="true" className="w-3 text-quiet">
                    {sign}
                  </span>
                  <span className={look}>
                    <span className="sr-only">{words}</span>
                    {line.text}
                  </span>
                </li>
              );
            })}
          </ul>
        </>
      )}
    </Dialog>
  );
}
