import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { picturesQuery } from "../../../api/queries";
import { columnOf, testOf } from "../../../api/lookup";
import { useReview } from "../../../api/review";
import { useMay } from "../../../api/session";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { Failed, Loading } from "../../../shell/States";
import { Beside } from "../../pictures/Beside";

type Side = Shapes["PictureSide"];
type Pair = Shapes["PicturePairShape"];

const VERDICTS = ["equal", "not equal", "cannot tell"] as const;

/** Pictures of two configurations beside each other, and what is said of them. */
export function PicturesDialog({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const may = useMay();
  const run = useAct();
  const query = useQuery(picturesQuery(review.id));
  const comparable = comparableTests(query.data?.pictures ?? []);
  const takeOff = (pair: Pair) =>
    void run(() => act("DELETE", `/api/picture-pairs/${pair.id}`), {
      said: "The statement is off; the pictures stay.",
      made: "review",
      undo: () =>
        act("POST", `/api/reviews/${review.id}/pictures`, {
          picture_a: pair.a.id,
          picture_b: pair.b.id,
          verdict: pair.verdict,
          words: pair.words,
        }),
    });
  return (
    <Dialog open onClose={onClose} title="Pictures beside each other" size="full">
      {query.isPending && <Loading what="Fetching the pictures" />}
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      {query.data?.pairs.map((pair) => (
        <section key={pair.id} className="mb-4 border-b border-line pb-3" aria-label={pair.said}>
          <p className="mb-1 font-serif">{pair.said}</p>
          <Beside pair={pair} address={(id) => `/api/pictures/${id}`} />
          <p className="mt-1 text-small text-quiet">
            {pair.by}
            {may("edit_review") && (
              <Button kind="link" className="ml-3 text-small" onClick={() => takeOff(pair)}>
                take it off
              </Button>
            )}
          </p>
        </section>
      ))}
      {query.data && comparable.length === 0 && (
        <p className="font-serif">
          No test has pictures of two configurations yet. Drop pictures on passes, in the Notes of their
          cells.
        </p>
      )}
      {query.data && comparable.length > 0 && may("edit_review") && (
        <State pictures={query.data.pictures} tests={comparable} />
      )}
    </Dialog>
  );
}

/** Tests that have pictures of two configurations or more. */
export function comparableTests(pictures: Pick<Side, "test" | "column">[]): number[] {
  const columns = new Map<number, Set<number>>();
  for (const one of pictures) {
    columns.set(one.test, (columns.get(one.test) ?? new Set<number>()).add(one.column));
  }
  return [...columns].filter(([, own]) => own.size > 1).map(([test]) => test);
}

function State({ pictures, tests }: { pictures: Side[]; tests: number[] }) {
  const review = useReview();
  const run = useAct();
  const [test, setTest] = useState(tests[0]);
  const own = pictures.filter((one) => one.test === test);
  const [left, setLeft] = useState<number | null>(null);
  const [right, setRight] = useState<number | null>(null);
  const a = own.find((one) => one.id === left) ?? own[0];
  const others = own.filter((one) => one.column !== a?.column);
  const b = others.find((one) => one.id === right) ?? others[0];
  const [verdict, setVerdict] = useState<(typeof VERDICTS)[number]>("equal");
  if (!a || !b) return null;
  const store = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const words = String(new FormData(form).get("words") ?? "");
    const saved = await run(
      () =>
        act<Shapes["PicturesShape"]>("POST", `/api/reviews/${review.id}/pictures`, {
          picture_a: a.id,
          picture_b: b.id,
          verdict,
          words,
        }),
      {
        said: "It is a statement of this review now.",
        made: "review",
        undo: (made) => act("DELETE", `/api/picture-pairs/${made.pairs.at(-1)?.id}`),
      },
    );
    if (saved) form.reset();
  };
  const choose = (label: string, value: number, of: Side[], set: (id: number) => void) => (
    <Field label={label}>
      <select value={value} onChange={(event) => set(Number(event.target.value))}>
        {of.map((one) => (
          <option key={one.id} value={one.id}>
            {columnOf(review, one.column)?.label}, pass {one.number}
            {one.caption && `: ${one.caption}`}
          </option>
        ))}
      </select>
    </Field>
  );
  return (
    <form onSubmit={(event) => void store(event)}>
      <div className="grid gap-x-3 sm:grid-cols-3">
        <Field label="Test">
          <select value={test} onChange={(event) => setTest(Number(event.target.value))}>
            {tests.map((id) => {
              const found = testOf(review, id);
              return (
                <option key={id} value={id}>
                  {found?.name}, {found?.detail}
                </option>
              );
            })}
          </select>
        </Field>
        {choose("One picture", a.id, own, setLeft)}
        {choose("The other", b.id, others, setRight)}
      </div>
      <Beside pair={{ a, b }} address={(id) => `/api/pictures/${id}`} />
      <div className="mt-2 flex flex-wrap items-end gap-4">
        <fieldset className="flex gap-4 text-note">
          <legend className="font-semibold">They are</legend>
          {VERDICTS.map((one) => (
            <label key={one} className="flex items-center gap-1.5">
              <input type="radio" name="verdict" checked={verdict === one} onChange={() => setVerdict(one)} />
              {one === "cannot tell" ? "cannot be told" : one}
            </label>
          ))}
        </fieldset>
        <label className="min-w-60 flex-1 text-note">
          <span className="font-semibold">{verdict === "equal" ? "Where it was looked at" : "In words"}</span>
          <input
            name="words"
            maxLength={400}
            required={verdict === "not equal"}
            placeholder={verdict === "not equal" ? "the shadows of the railing are missing" : ""}
            className="block w-full border border-ink bg-sheet px-2 py-1 text-body"
          />
        </label>
        <Button kind="strong" type="submit">
          State it
        </Button>
      </div>
    </form>
  );
}
