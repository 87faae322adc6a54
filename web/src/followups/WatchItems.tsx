import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { act } from "../api/acts";
import { watchedInQuery, watchItemsQuery } from "../api/standings";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { When } from "../design/When";

/** What is to be watched on a machine. */
export function WatchItems({ system }: { system: number }) {
  const may = useMay()("edit_systems");
  const run = useAct();
  const { data } = useQuery(watchItemsQuery(system));
  const [words, setWords] = useState("");
  const note = (event: FormEvent) => {
    event.preventDefault();
    void run(() => act("POST", `/api/systems/${system}/watch-items`, { words }), {
      said: "It stands in every brief that uses this machine.",
      made: "follow_ups",
    }).then((done) => done !== undefined && setWords(""));
  };
  const set = (id: number, watched: boolean) =>
    act(watched ? "PUT" : "DELETE", `/api/watch-items/${id}/watched`);
  if (!data || (!data.length && !may)) return null;
  return (
    <section aria-label="To be watched" className="mt-6">
      <h2 className="mb-1 font-serif text-lead font-semibold">To be watched</h2>
      <ul className="border-t border-line text-note">
        {data.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 border-b border-line py-1.5">
            <span className={`grow ${one.ended_at ? "text-quiet" : ""}`}>
              {one.words}{" "}
              <span className="text-small text-quiet">
                {one.by}, <When at={one.at} />
                {one.ended_at && (
                  <>
                    ; ended by {one.ended_by}, <When at={one.ended_at} />
                  </>
                )}
              </span>
            </span>
            {may && (
              <Button
                kind="link"
                onClick={() =>
                  void run(() => set(one.id, Boolean(one.ended_at)), {
                    said: one.ended_at ? "It is watched again." : "It is watched no longer.",
                    undo: () => set(one.id, !one.ended_at),
                    made: "follow_ups",
                  })
                }
              >
                {one.ended_at ? "again" : "no longer"}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <form onSubmit={note} className="mt-2 flex gap-2 text-note">
          <input
            aria-label="To be watched"
            placeholder="cooler paste of March; no drivers after this one"
            value={words}
            maxLength={200}
            required
            onChange={(event) => setWords(event.target.value)}
            className="w-96 border border-ink bg-sheet px-2 py-1 placeholder:text-quiet"
          />
          <Button type="submit">Watch it</Button>
        </form>
      )}
    </section>
  );
}

/** What is watched on the machines of a review, for its brief. */
export function WatchedIn({ review }: { review: number }) {
  const { data } = useQuery(watchedInQuery(review));
  if (!data?.length) return null;
  return (
    <section aria-label="To be watched" className="mt-6 mb-2 text-note">
      <h2 className="font-semibold">To be watched</h2>
      <ul>
        {data.map((one) => (
          <li key={one.id} className="py-0.5">
            <span aria-hidden="true" className="text-mark">
              ⚑{" "}
            </span>
            <strong>{one.system_name}</strong>: {one.words}
          </li>
        ))}
      </ul>
    </section>
  );
}
