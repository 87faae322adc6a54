import { useState, type FormEvent } from "react";
import { Link } from "react-router";
import { api, type VerdictShape } from "../../api/client";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";

type Point = VerdictShape["points"][number];

const KINDS: Record<string, string> = {
  claim: "sentence",
  plan: "plan",
  hole: "hole",
  flag: "flag",
  drift: "drift",
  session: "sessions",
  hypothesis: "explanation",
};
/** So many stand in sight; the rest is unfolded. */
const SHOWN = 6;

/** What is open before it goes out: each point is mended, accepted with a word, or left out. */
export function OpenPoints({ verdict }: { verdict: VerdictShape }) {
  const [all, setAll] = useState(false);
  const open = verdict.points.filter((one) => !one.answer);
  const answered = verdict.points.filter((one) => one.answer);
  const shown = all ? [...open, ...answered] : open.slice(0, SHOWN);
  return (
    <section aria-label="Before it goes out" className="mt-5">
      <h2 className="border-b border-line pb-1.5 text-body font-semibold">Before it goes out</h2>
      <p className="py-1.5 text-note">{tally(verdict)}</p>
      <p className="text-note text-quiet">
        {open.length
          ? `${count(open.length, "point")} open${answered.length ? `, ${answered.length} answered` : ""}. Mend it, accept it with a word, or leave it out; it can be published open, and says so.`
          : answered.length
            ? `Nothing is open; ${count(answered.length, "point")} answered.`
            : "Nothing is open."}
      </p>
      <ul>
        {shown.map((one) => (
          <PointLine key={one.key} point={one} />
        ))}
      </ul>
      {verdict.points.length > (all ? 0 : shown.length) && (
        <Button kind="link" className="mt-1 text-note" onClick={() => setAll(!all)}>
          {all ? "Show fewer" : `Show all ${verdict.points.length}`}
        </Button>
      )}
    </section>
  );
}

/** How many sentences the check called what. */
function tally(verdict: VerdictShape): string {
  const sentences = verdict.sentences.filter((one) => one.status !== "nothing");
  if (!sentences.length) return "No sentence says anything that could be checked yet.";
  const counted = new Map<string, number>();
  for (const one of sentences) counted.set(one.status_words, (counted.get(one.status_words) ?? 0) + 1);
  return `${count(sentences.length, "sentence")} checked: ${[...counted].map(([words, n]) => `${words} ${n}`).join(", ")}.`;
}

function PointLine({ point }: { point: Point }) {
  const review = useReview();
  const may = useMay();
  const act = useAct();
  const [how, setHow] = useState<"accepted" | "left out" | null>(null);
  const path = { review: review.id, key: point.key };
  const edits = may("edit_review");
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const words = String(new FormData(event.currentTarget).get("words") ?? "");
    void act(
      async () =>
        api.PUT("/api/reviews/{review}/verdict/points/{key}", {
          params: { path },
          body: { how: how ?? "accepted", words },
        }),
      { said: "Answered; readers see it in the record.", made: "verdict" },
    ).then((done) => done && setHow(null));
  };
  const takeBack = () =>
    void act(async () => api.DELETE("/api/reviews/{review}/verdict/points/{key}", { params: { path } }), {
      said: "The point is open again.",
      made: "verdict",
    });
  return (
    <li className="border-b border-line py-1.5 text-note">
      <span className="text-quiet">{KINDS[point.kind] ?? point.kind}: </span>
      {point.words}
      {point.answer ? (
        <span className="block text-small text-quiet">
          {point.answer.how}: {point.answer.words} ({point.answer.by}){" "}
          {edits && (
            <Button kind="link" onClick={takeBack}>
              Take back
            </Button>
          )}
        </span>
      ) : (
        edits && (
          <span className="flex flex-wrap gap-x-3 text-small print:hidden">
            {point.leads !== "verdict" && (
              <Link className="underline decoration-line" to={`/reviews/${review.id}/${point.leads}`}>
                Mend it
              </Link>
            )}
            <Button kind="link" onClick={() => setHow("accepted")}>
              Accept it
            </Button>
            <Button kind="link" onClick={() => setHow("left out")}>
              Leave it out
            </Button>
          </span>
        )
      )}
      {how && (
        <form onSubmit={submit} className="mt-1 flex gap-2">
          <input
            name="words"
            required
            maxLength={400}
            autoFocus
            autoComplete="off"
            aria-label={how === "accepted" ? "Why it is accepted" : "Why it is left out"}
            placeholder={how === "accepted" ? "why it is accepted" : "why it is left out"}
            onKeyDown={(event) => event.key === "Escape" && setHow(null)}
            className="min-w-0 grow border border-ink bg-sheet px-1"
          />
          <Button type="submit">Keep</Button>
        </form>
      )}
    </li>
  );
}
