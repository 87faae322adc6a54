import { useEffect, useState } from "react";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { figure } from "../../marks/words";
import { useHands } from "../../docket/hand/hands";
import { HandsOf } from "./ledger/HandsOf";
import { useStore } from "./ledger/useLedger";
import type { CellPlace } from "./place";
import { useReview } from "../../api/review";

interface Props {
  cell: CellPlace;
  /** The times of the test, in the order of their phases. */
  phases: { metric: string; label: string }[];
  title: string;
  onClose: () => void;
}

/** Reaction at the start and at the end, as half-width of a time by hand. */
const PRECISION_S = 0.2;

/** Times by hand, for one phase or several in a row; Space or a thumb stops each. */
export function Stopwatch({ cell, phases, title, onClose }: Props) {
  const review = useReview();
  const store = useStore(review);
  const [hands] = useHands();
  const [started, setStarted] = useState<number | null>(null);
  const [ends, setEnds] = useState<number[]>([]);
  const [now, setNow] = useState(0);
  const [problem, setProblem] = useState("");
  const done = ends.length === phases.length;
  useEffect(() => {
    if (started === null || done) return;
    const timer = window.setInterval(() => setNow(performance.now()), 100);
    return () => window.clearInterval(timer);
  }, [started, done]);
  const press = () => {
    const at = performance.now();
    setNow(at);
    if (started === null) setStarted(at);
    else if (!done) setEnds((all) => [...all, (at - started) / 1000]);
  };
  const send = async () => {
    try {
      await store(
        ends.map((seconds, at) => ({
          test: cell.test,
          column: cell.column,
          metric: phases[at]?.metric ?? "",
          text: seconds.toFixed(2),
          method: "stopwatch",
          half_width: PRECISION_S,
        })),
        hands,
      );
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const running = started === null ? 0 : (ends[ends.length - 1] ?? 0);
  const shown = started === null ? 0 : done ? running : (now - started) / 1000;
  return (
    <Dialog open onClose={onClose} title={title}>
      <p className="my-2 text-center text-[44px] leading-none tabular-nums" role="timer">
        {Math.floor(shown / 60)}:{(shown % 60).toFixed(1).padStart(4, "0")}
      </p>
      <ol className="mb-3 text-note">
        {phases.map((phase, at) => (
          <li key={phase.metric} className="flex justify-between border-t border-line py-1">
            <span className={at === ends.length && started !== null ? "font-semibold" : ""}>
              {phase.label}
            </span>
            <span>
              {ends[at] === undefined
                ? at === ends.length && started !== null
                  ? "running"
                  : ""
                : `${figure(ends[at], 4)} s ± ${PRECISION_S} s`}
            </span>
          </li>
        ))}
      </ol>
      {!done && (
        <Button kind="strong" className="w-full py-5 text-lead" onClick={press} autoFocus>
          {started === null ? "Start" : `${phases[ends.length]?.label}: now`}
        </Button>
      )}
      {problem && (
        <p role="alert" className="mt-2 text-note text-mark">
          {problem}
        </p>
      )}
      <div className="mt-3 flex gap-3">
        {done && (
          <Button kind="strong" onClick={() => void send()}>
            Store as a pass
          </Button>
        )}
        <Button
          onClick={() => {
            setStarted(null);
            setEnds([]);
          }}
          disabled={started === null}
        >
          Begin anew
        </Button>
        <Button onClick={onClose}>Not now</Button>
        <HandsOf />
      </div>
      <p className="mt-2 text-small text-quiet">
        Each time counts from the start. A hand is about 0.2 s late or early, which is kept with the figure.
      </p>
    </Dialog>
  );
}
