import { useEffect, useState } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { clock } from "../../marks/words";

const WHY: Record<string, string> = {
  growing: "nothing has broken yet",
  shrinking: "it broke at the start",
  bisecting: "halfway between what held and what broke",
  confirming: "once more, to be sure",
  hot: "directly after the soak, while it is hot",
  ladder: "the next rung down",
};

/** The tester answers whether a load holds; the search says what to try next. */
export function SearchByHand({ search, entry }: { search: Shapes["SearchShape"]; entry: number }) {
  const run = useAct();
  const [other, setOther] = useState("");
  const [time, setTime] = useState("");
  const [reason, setReason] = useState("");
  // One answer at a time: the next proposal follows from it.
  const [answering, setAnswering] = useState(false);
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
    setAnswering(true);
    void run(() => act("POST", `${path}/attempts`, body), {
      said: holds ? "It holds." : "It breaks.",
      undo: () => act("DELETE", `${path}/attempts/${search.attempts.length}`),
      made: "pass",
    }).then(() => {
      setOther("");
      setTime("");
      setReason("");
      setAnswering(false);
    });
  };
  const end = () =>
    void run(() => act("POST", `${path}/end`), {
      said: "Stopped. What was tried is kept, and the search can be gone on with.",
      made: "pass",
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
      {next?.hot && search.soak_s > 0 && <Soak key={search.attempts.length} seconds={search.soak_s} />}
      <div className="mb-2 flex flex-wrap gap-3">
        <Button
          kind="strong"
          className="min-w-36 py-2.5 text-lead"
          disabled={answering}
          onClick={() => answer(true)}
        >
          It holds
        </Button>
        <Button className="min-w-36 py-2.5 text-lead" disabled={answering} onClick={() => answer(false)}>
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

/** How long the load still has to be kept up before the hot check; it counts from when the tester says so. */
function Soak({ seconds }: { seconds: number }) {
  const [began, setBegan] = useState<number | null>(null);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (began === null) return;
    const timer = window.setInterval(() => setNow(Date.now()), 500);
    return () => window.clearInterval(timer);
  }, [began]);
  if (began === null) {
    return (
      <Button
        className="mb-2"
        onClick={() => {
          setNow(Date.now());
          setBegan(Date.now());
        }}
      >
        The soak begins now
      </Button>
    );
  }
  const left = seconds - (now - began) / 1000;
  return (
    <p role="timer" className="mb-2 text-lead">
      {left > 0 ? (
        <>
          Soak: <strong>{clock(left)}</strong> left
        </>
      ) : (
        "The soak is over: check the load now, while it is hot."
      )}
    </p>
  );
}
