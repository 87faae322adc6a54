import { Link } from "react-router";
import { usePreferences } from "../api/preferences";
import { useMatrix, useReview } from "../api/review";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { useNotices } from "../design/Notices";
import { WaysIn } from "./WaysIn";

interface Props {
  onTyping?: () => void;
  onBring?: () => void;
  onAsk?: () => void;
  onVersus: () => void;
}

/** Goes on with a first review: its first figures, then its first versus. */
export function FirstSteps({ onTyping, onBring, onAsk, onVersus }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const may = useMay();
  const { preferences, set } = usePreferences();
  const { warn } = useNotices();
  if (preferences?.first_review !== review.id) return null;
  const figures = review.columns.map((column) =>
    Math.max(0, ...matrix.rows.map((row) => row.cells[String(column.id)]?.n ?? 0)),
  );
  const first = figures.every((n) => n > 0);
  const again = figures.every((n) => n > 1);
  const compared = matrix.rows.some((row) => Object.values(row.cells).some((cell) => cell.comparison));
  const done = () => set({ first_review: null }).catch((error: Error) => warn(error.message));
  const steps: [string, boolean][] = [
    ["a figure of each configuration", first],
    ["a second pass of each, which tells the noise", again],
    ["the first versus", again && compared],
  ];
  return (
    <section aria-label="Your first review" className="mb-2 border border-ink bg-sheet px-3 py-2 text-note">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2 className="font-serif text-lead font-semibold">Your first review</h2>
        <ol className="flex flex-wrap gap-x-5">
          {steps.map(([words, there], at) => (
            <li key={words} className={there ? "text-quiet" : ""}>
              <span aria-hidden="true">{there ? "✓ " : `${at + 1}. `}</span>
              {words}
              <span className="sr-only">{there ? ", done" : ", not done"}</span>
            </li>
          ))}
        </ol>
        <Button kind="link" className="ml-auto" onClick={() => void done()}>
          {again ? "done" : "go on without this"}
        </Button>
      </div>
      {again ? (
        <p className="mt-1">
          Two passes of each are in.{" "}
          <Button kind="link" onClick={onVersus}>
            Versus
          </Button>{" "}
          holds them against each other, with the noise between passes; the{" "}
          <Link className="underline" to={`/reviews/${review.id}/findings`}>
            findings
          </Link>{" "}
          say it in a sentence. A third pass makes the interval narrower.
        </p>
      ) : (
        <div className="mt-1">
          <WaysIn />
          <p className="mt-2 flex flex-wrap gap-3">
            {onTyping && <Button onClick={onTyping}>Type figures in</Button>}
            {onBring && <Button onClick={onBring}>Bring files in</Button>}
            {onAsk && may("ask_for_passes") && <Button onClick={onAsk}>Ask a bench for passes</Button>}
            <Link className="self-center underline" to="/systems">
              connect a bench
            </Link>
          </p>
        </div>
      )}
    </section>
  );
}
