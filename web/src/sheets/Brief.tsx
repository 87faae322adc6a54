import { useState } from "react";
import type { ReviewShape, SessionShape } from "../api/client";
import type { ReviewEdit } from "../api/acts";
import { Button } from "../design/Button";
import { Field } from "../design/Field";
import { DifferenceTable } from "./DifferenceTable";
import { EditForm } from "./EditForm";

const LOWS: [string, string][] = [
  ["slowest_mean", "mean of the slowest frames"],
  ["percentile", "frame-time percentile"],
  ["time_share", "share of the time"],
];

/** The plan: question, expectation, configurations and what differs between them, tests, margin and passes. */
export function Brief({ review, session }: { review: ReviewShape; session: SessionShape }) {
  const [editing, setEditing] = useState(false);
  const low = LOWS.find(([key]) => key === review.low_definition)?.[1];
  return (
    <main className="grid gap-8 p-5 lg:grid-cols-[1fr_360px]">
      <div className="flex min-w-0 flex-col gap-7">
        <section>
          <h2 className="mb-2 font-serif text-lead font-semibold">Configurations</h2>
          <DifferenceTable columns={review.columns} differences={review.differences} />
        </section>
        <section>
          <h2 className="mb-2 font-serif text-lead font-semibold">Tests</h2>
          <ol className="border-t border-line">
            {review.tests.map((test) => (
              <li key={test.id} className="border-b border-line py-2">
                <strong>{test.name}</strong> <span className="text-quiet">{test.version}</span> ·{" "}
                {test.detail}
                <p className="text-note text-quiet">{test.procedure}</p>
              </li>
            ))}
          </ol>
        </section>
      </div>
      <aside className="border-l-2 border-ink pl-6">
        {editing ? (
          <EditBrief review={review} onClose={() => setEditing(false)} />
        ) : (
          <>
            <Said title="Expected before the first pass" words={review.expectation} />
            <Said title="For" words={review.audience} />
            <Said
              title="Practical margin"
              words={`${100 * review.margin} %: a smaller difference is called level`}
            />
            <Said title="Low" words={`1 % and 0.1 % lows are the ${low}`} />
            {review.target_fps !== null && (
              <Said title="Target" words={`${review.target_fps} frames per second`} />
            )}
            <Said title="Passes per test" words={String(review.passes_per_test)} />
            <Said title="Editor" words={review.editor} />
            {session.may.includes("edit_review") && (
              <Button onClick={() => setEditing(true)}>Edit the brief</Button>
            )}
          </>
        )}
      </aside>
    </main>
  );
}

function Said({ title, words }: { title: string; words: string }) {
  return (
    <div className="mb-4">
      <h3 className="text-note font-semibold">{title}</h3>
      <p className="font-serif">{words || "Not said."}</p>
    </div>
  );
}

function EditBrief({ review, onClose }: { review: ReviewShape; onClose: () => void }) {
  const [began] = useState(review);
  return (
    <EditForm began={began} label="Edit the brief" changesOf={briefOf} onClose={onClose}>
      <Field label="Question">
        <textarea name="question" rows={2} required maxLength={300} defaultValue={began.question} />
      </Field>
      <Field label="Expected before the first pass">
        <textarea name="expectation" rows={2} defaultValue={began.expectation} />
      </Field>
      <Field label="For">
        <input name="audience" maxLength={300} defaultValue={began.audience} />
      </Field>
      <Field label="Held constant">
        <textarea name="constant" rows={2} maxLength={400} defaultValue={began.constant} />
      </Field>
      <Field label="Practical margin in %" hint="Differences within it count as level.">
        <input
          name="margin"
          type="number"
          min="0"
          max="100"
          step="0.1"
          required
          defaultValue={100 * began.margin}
        />
      </Field>
      <Field label="1 % and 0.1 % low" hint="One definition for all figures of the review.">
        <select name="low_definition" defaultValue={began.low_definition}>
          {LOWS.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Field>
    </EditForm>
  );
}

function briefOf(form: FormData): ReviewEdit {
  const text = (name: string) => String(form.get(name) ?? "");
  return {
    question: text("question"),
    expectation: text("expectation"),
    audience: text("audience"),
    constant: text("constant"),
    margin: Number(text("margin")) / 100,
    low_definition: text("low_definition") as ReviewEdit["low_definition"],
  };
}
