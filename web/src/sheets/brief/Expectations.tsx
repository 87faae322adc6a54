import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { editReview } from "../../api/acts";
import type { ReviewShape } from "../../api/client";
import { columnOf, testOf } from "../../api/lookup";
import { findingsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { Seal } from "../../marks/Seal";
import { ConfigurationOptions } from "../ConfigurationOptions";

type Expectation = ReviewShape["expectations"][number];

const WORDS: Record<Expectation["word"], string> = {
  ahead: "is ahead of",
  level: "is level with",
  behind: "is behind",
};

/** What is expected, in a form that can be held against the data, with what came of it where that is known. */
export function Expectations() {
  const review = useReview();
  const may = useMay()("edit_review");
  const act = useAct();
  const [adding, setAdding] = useState(false);
  const findings = useQuery({ ...findingsQuery(review.id), enabled: review.expectations.length > 0 });
  const held = (at: number) =>
    findings.data?.findings.find((one) => one.key === `expected-${at + 1}`)?.verdict ?? "";
  const store = (expectations: Expectation[], said: string) =>
    act(() => editReview(review.id, review.version, { expectations }), { said, made: "review" });
  if (!may && !review.expectations.length) return null;
  return (
    <div className="mb-3">
      {review.expectations.length > 0 && (
        <ul className="text-note" aria-label="Expectations in a form">
          {review.expectations.map((one, at) => (
            <li
              key={`${at} ${one.column} ${one.of}`}
              className="flex items-baseline gap-2 border-b border-line py-1"
            >
              <span className="grow">
                <Side column={one.column} /> {WORDS[one.word]} <Side column={one.of} />
                {one.by_at_most_pct ? `, by ${one.by_at_most_pct} % at most` : ""}
                <span className="text-quiet">
                  {one.role === "lows" ? ", in the 1 % lows" : ""}
                  {one.test
                    ? `, in ${[testOf(review, one.test)?.name, testOf(review, one.test)?.short].filter(Boolean).join(", ")}`
                    : ""}
                </span>
                {held(at) && (
                  <>
                    : <strong>{held(at)}</strong>
                  </>
                )}
              </span>
              {may && (
                <Button
                  kind="link"
                  onClick={() =>
                    void store(
                      review.expectations.filter((_, place) => place !== at),
                      "The expectation is taken away.",
                    )
                  }
                >
                  Remove
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {may && !adding && review.columns.length > 1 && (
        <Button kind="link" onClick={() => setAdding(true)}>
          Expect something that can be checked
        </Button>
      )}
      {adding && (
        <AddExpectation
          onClose={() => setAdding(false)}
          onAdd={async (one) => {
            const done = await store([...review.expectations, one], "It will be held against what is found.");
            if (done) setAdding(false);
          }}
        />
      )}
    </div>
  );
}

function Side({ column }: { column: number }) {
  const review = useReview();
  const found = columnOf(review, column);
  if (!found) return <>a configuration that has gone</>;
  return (
    <>
      <Seal position={found.position} label={found.label} size={15} /> {found.label}
    </>
  );
}

const BOX = "border border-ink bg-sheet px-1 py-0.5";

interface AddProps {
  onAdd: (one: Expectation) => Promise<void>;
  onClose: () => void;
}

function AddExpectation({ onAdd, onClose }: AddProps) {
  const review = useReview();
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const most = String(form.get("most") ?? "");
    void onAdd({
      column: Number(form.get("column")),
      word: String(form.get("word")) as Expectation["word"],
      of: Number(form.get("of")),
      by_at_most_pct: most ? Number(most) : null,
      role: form.get("role") === "lows" ? "lows" : "averages",
      test: Number(form.get("test")) || null,
    });
  };
  const base = review.columns.find((column) => column.is_baseline) ?? review.columns[0];
  const first = review.columns.find((column) => column !== base);
  const columns = <ConfigurationOptions review={review} />;
  return (
    <form
      onSubmit={submit}
      aria-label="Expect something"
      className="flex flex-wrap items-center gap-1.5 text-note"
    >
      <select className={BOX} name="column" aria-label="Configuration" defaultValue={first?.id}>
        {columns}
      </select>
      <select className={BOX} name="word" aria-label="How it stands" defaultValue="level">
        {Object.entries(WORDS).map(([word, words]) => (
          <option key={word} value={word}>
            {words}
          </option>
        ))}
      </select>
      <select className={BOX} name="of" aria-label="Against" defaultValue={base?.id}>
        {columns}
      </select>
      <label>
        by at most{" "}
        <input
          name="most"
          type="number"
          min="0.1"
          max="1000"
          step="any"
          className="w-16 border border-ink bg-sheet px-1"
        />{" "}
        %
      </label>
      <select className={BOX} name="role" aria-label="By which figures">
        <option value="averages">averages</option>
        <option value="lows">1 % lows</option>
      </select>
      <select name="test" aria-label="In which test" className={`max-w-44 ${BOX}`}>
        <option value="">over all tests</option>
        {review.tests.map((test) => (
          <option key={test.id} value={test.id}>
            {[test.name, test.short || test.detail].filter(Boolean).join(", ")}
          </option>
        ))}
      </select>
      <Button kind="strong" type="submit">
        Expect it
      </Button>
      <Button onClick={onClose}>Not now</Button>
    </form>
  );
}
