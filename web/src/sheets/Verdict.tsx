import { useState, type FormEvent } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { publish } from "../api/acts";
import { keys } from "../api/queries";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { When } from "../design/When";
import { Expectations } from "./brief/Expectations";
import { EditForm } from "./EditForm";
import { useReview } from "../api/review";
import { useMay } from "../api/session";

/** The editor's conclusion, and the records published from it. */
export function Verdict() {
  const may = useMay();
  const review = useReview();
  const [editing, setEditing] = useState(false);
  const [publishing, setPublishing] = useState(false);
  return (
    <main className="grid gap-8 p-5 lg:grid-cols-[1fr_360px]">
      <section aria-label="Verdict" className="max-w-[720px]">
        {editing ? (
          <EditVerdict onClose={() => setEditing(false)} />
        ) : (
          <>
            {review.verdict ? (
              review.verdict.split(/\n\n+/).map((paragraph) => (
                <p key={paragraph} className="mb-3 font-serif text-lead">
                  {paragraph}
                </p>
              ))
            ) : (
              <p className="mb-3 font-serif text-lead text-quiet">
                No verdict yet. It can wait until the passes are in.
              </p>
            )}
            {may("edit_review") && (
              <Button onClick={() => setEditing(true)}>
                {review.verdict ? "Edit the verdict" : "Write the verdict"}
              </Button>
            )}
          </>
        )}
      </section>
      <aside className="border-l-2 border-ink pl-6">
        {review.expectations.length > 0 && (
          <>
            <h2 className="mb-2 font-serif text-lead font-semibold">Expected</h2>
            <Expectations />
          </>
        )}
        <h2 className="mb-2 font-serif text-lead font-semibold">Records</h2>
        <p className="mb-3 text-note text-quiet">
          A record is a public page, frozen as the review stands at that moment. Anybody with its address can
          read it.
        </p>
        {review.records.length > 0 && (
          <ul className="mb-4 border-t border-line">
            {review.records.map((record) => (
              <li key={record.slug} className="border-b border-line py-2 text-note">
                <a href={`/records/${record.slug}`} className="font-semibold underline">
                  Edition {record.edition}
                </a>{" "}
                by {record.published_by}, <When at={record.published_at} />
                {record.change_note && <p className="text-quiet">{record.change_note}</p>}
              </li>
            ))}
          </ul>
        )}
        {may("publish") ? (
          <Button kind="strong" onClick={() => setPublishing(true)}>
            {review.records.length ? "Publish a new edition" : "Publish"}
          </Button>
        ) : (
          <p className="text-note text-quiet">An editor publishes.</p>
        )}
      </aside>
      {publishing && <Publish onClose={() => setPublishing(false)} />}
    </main>
  );
}

function EditVerdict({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const [began] = useState(review);
  return (
    <EditForm
      began={began}
      label="Edit the verdict"
      changesOf={(form) => ({ verdict: String(form.get("verdict")) })}
      onClose={onClose}
    >
      <Field label="Verdict" hint="An empty line begins a new paragraph.">
        <textarea name="verdict" rows={12} defaultValue={began.verdict} autoFocus />
      </Field>
    </EditForm>
  );
}

function Publish({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const client = useQueryClient();
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const [slug, setSlug] = useState("");
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const note = String(new FormData(event.currentTarget).get("note") ?? "");
    setBusy(true);
    setProblem("");
    try {
      const record = await publish(review.id, note);
      setSlug(record.slug);
      void client.invalidateQueries({ queryKey: keys.review(review.id) });
      void client.invalidateQueries({ queryKey: keys.reviews });
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (slug) {
    return (
      <Dialog open onClose={onClose} title="Published">
        <p>
          The record is at{" "}
          <a className="underline" href={`/records/${slug}`}>
            {`${window.location.origin}/records/${slug}`}
          </a>
          .
        </p>
        <Button kind="strong" className="mt-4" onClick={onClose}>
          Close
        </Button>
      </Dialog>
    );
  }
  return (
    <Dialog open onClose={onClose} title={`Publish edition ${(review.records[0]?.edition ?? 0) + 1}`}>
      <form onSubmit={(event) => void submit(event)}>
        <p className="mb-3">
          The question, the configurations, all figures and captures become readable for everybody who has the
          address. A record stays as it is; a correction is a new edition.
        </p>
        {review.records.length > 0 && (
          <Field label="What changed since the last edition" hint="Readers will see it.">
            <input name="note" required maxLength={300} />
          </Field>
        )}
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <div className="flex gap-3">
          <Button kind="strong" type="submit" disabled={busy}>
            {busy ? "Publishing …" : "Publish"}
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
