import { useState } from "react";
import { act } from "../../api/acts";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { SEARCH_STALE, type Search } from "./SearchView";

const WHY: Record<string, string> = {
  growing: "nothing has broken yet",
  shrinking: "it broke at the start",
  bisecting: "halfway between what held and what broke",
  confirming: "once more, to be sure",
  hot: "directly after the soak, while it is hot",
  ladder: "the next rung down",
};

/** The tester answers whether a load holds; the search says what to try next. */
export function SearchByHand({ search, entry }: { search: Search; entry: number }) {
  const run = useAct();
  const [other, setOther] = useState("");
  const [time, setTime] = useState("");
  const [reason, setReason] = useState("");
  const path = `/api/docket/${entry}/search`;
  const next = search.next;
  const load = other.trim() === "" ? next?.load : Number(other);
  const answer = (holds: boolean) => {
    const body = {
      position: search.attempts.length,
      load,
      hot: next?.hot ?? false,
      holds,
      time_to_failure_s: holds || time.trim() === "" ? null : Number(time.replace(",", ".")),
      reason: holds ? "" : reason,
    };
    void run(() => act("POST", `${path}/attempts`, body), {
      said: holds ? "It holds." : "It breaks.",
      undo: () => act("DELETE", `${path}/attempts/${search.attempts.length}`),
      stale: SEARCH_STALE,
    }).then(() => {
      setOther("");
      setTime("");
      setReason("");
    });
  };
  const end = () =>
    void run(() => act("POST", `${path}/end`), {
      said: "Stopped. What was tried is kept, and the search can be gone on with.",
      stale: SEARCH_STALE,
    });
  const dress = "border border-ink bg-sheet px-2 py-1 text-body";
  return (
    <section aria-label="Search by hand" className="my-3 border-l-2 border-better pl-3">
      {next && (
        <p className="mb-2 text-lead">
          Try <strong>{next.words}</strong>{" "}
          <span className="text-note text-quiet">
            {WHY[next.phase]}
            {next.hot &&
              search.soak_s > 0 &&
              `: keep the load up for ${Math.round(search.soak_s / 60)} min first`}
          </span>
        </p>
      )}
      <div className="mb-2 flex flex-wrap gap-3">
        <Button kind="strong" className="min-w-36 py-2.5 text-lead" onClick={() => answer(true)}>
          It holds
        </Button>
        <Button className="min-w-36 py-2.5 text-lead" onClick={() => answer(false)}>
          It breaks
        </Button>
      </div>
      <div className="flex flex-wrap items-end gap-3 text-note">
        <label>
          <span className="block text-quiet">when it broke: after so many seconds</span>
          <input
            className={dress}
            inputMode="decimal"
            value={time}
            onChange={(e) => setTime(e.target.value)}
          />
        </label>
        <label>
          <span className="block text-quiet">and why</span>
          <input
            className={dress}
            value={reason}
            maxLength={300}
            onChange={(e) => setReason(e.target.value)}
          />
        </label>
        {!search.rungs.length && (
          <label>
            <span className="block text-quiet">another load than proposed</span>
            <input
              className={dress}
              inputMode="numeric"
              value={other}
              onChange={(e) => setOther(e.target.value)}
            />
          </label>
        )}
        <Button kind="link" onClick={end}>
          Stop for now
        </Button>
      </div>
    </section>
  );
}
