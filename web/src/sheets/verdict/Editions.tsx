import { useState, type FormEvent } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { publish } from "../../api/acts";
import { api, type VerdictShape } from "../../api/client";
import { keys } from "../../api/queries";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { NoteFollowUp } from "../../followups/NoteFollowUp";
import { count } from "../../marks/words";
import { RawFiles } from "./RawFiles";

/** The records that were published, and publishing the next one. */
export function Editions({ verdict }: { verdict: VerdictShape }) {
  const review = useReview();
  const may = useMay();
  const [publishing, setPublishing] = useState(false);
  const [noting, setNoting] = useState("");
  const next = (review.records[0]?.edition ?? 0) + 1;
  return (
    <section aria-label="Records" className="mt-5">
      <h2 className="border-b border-line pb-1.5 text-body font-semibold">Records</h2>
      <ul>
        {review.records.map((record) => (
          <li key={record.slug} className="border-b border-line py-1.5 text-note">
            <a href={`/records/${record.slug}`} className="font-semibold underline">
              Edition {record.edition}
            </a>{" "}
            by {record.published_by}, <When at={record.published_at} />
            {may("follow_up") && (
              <>
                {" "}
                <Button
                  kind="link"
                  aria-label={`note a follow-up on edition ${record.edition}`}
                  onClick={() => setNoting(record.slug)}
                >
                  note a follow-up
                </Button>
              </>
            )}
            {record.change_note && <p className="text-quiet">{record.change_note}</p>}
            {record.withdrawn ? (
              <p className="text-mark">withdrawn: {record.withdrawn}</p>
            ) : (
              may("publish") && <Withdraw slug={record.slug} edition={record.edition} />
            )}
          </li>
        ))}
      </ul>
      {noting && (
        <NoteFollowUp about={{ record: noting }} tests={review.tests} onClose={() => setNoting("")} />
      )}
      <p className="py-1.5 text-note text-quiet">
        A record is a public page, frozen as the review stands. Anybody with its address can read it.
      </p>
      <p className="flex flex-wrap gap-x-2 pb-1.5 text-small text-quiet print:hidden">
        Inside the team:
        {(
          [
            ["figures", "csv"],
            ["figures", "md"],
            ["findings", "csv"],
            ["findings", "md"],
            ["verdict", "md"],
            ["verdict", "json"],
          ] as const
        ).map(([what, form]) => (
          <a
            key={`${what}.${form}`}
            className="underline"
            href={`/api/reviews/${review.id}/export/${what}.${form}`}
            download
          >
            {what}.{form}
          </a>
        ))}
      </p>
      {may("publish") ? (
        <Button kind="strong" disabled={verdict.lacks.length > 0} onClick={() => setPublishing(true)}>
          Publish edition {next}
        </Button>
      ) : (
        <p className="text-note text-quiet">An editor publishes.</p>
      )}
      {publishing && <Publish verdict={verdict} edition={next} onClose={() => setPublishing(false)} />}
    </section>
  );
}

/** Taking a record back: its page stays, and says why. */
function Withdraw({ slug, edition }: { slug: string; edition: number }) {
  const act = useAct();
  const [open, setOpen] = useState(false);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const why = String(new FormData(event.currentTarget).get("why") ?? "");
    const done = await act(
      async () => api.PUT("/api/records/{slug}/withdrawn", { params: { path: { slug } }, body: { why } }),
      { said: `Edition ${edition} is withdrawn; its page says why.`, made: "record" },
    );
    if (done) setOpen(false);
  };
  return (
    <>
      {" "}
      <Button kind="link" className="print:hidden" onClick={() => setOpen(true)}>
        Withdraw
      </Button>
      {open && (
        <Dialog open onClose={() => setOpen(false)} title={`Withdraw edition ${edition}`}>
          <form onSubmit={(event) => void submit(event)}>
            <p className="mb-3">
              Its page stays and says why; what it held is no longer shown to anybody outside. This cannot be
              undone; a new edition can be published.
            </p>
            <Field label="Why it is withdrawn" hint="Readers will see it.">
              <input name="why" required maxLength={400} autoFocus autoComplete="off" />
            </Field>
            <div className="flex gap-3">
              <Button kind="strong" type="submit">
                Withdraw
              </Button>
              <Button onClick={() => setOpen(false)}>Leave it</Button>
            </div>
          </form>
        </Dialog>
      )}
    </>
  );
}

interface Props {
  verdict: VerdictShape;
  edition: number;
  onClose: () => void;
}

function Publish({ verdict, edition, onClose }: Props) {
  const review = useReview();
  const client = useQueryClient();
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const [slug, setSlug] = useState("");
  const [request] = useState(() => crypto.randomUUID());
  const open = verdict.points.filter((one) => !one.answer).length;
  const signed = verdict.signatures.filter((one) => one.stands);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const said = new FormData(form);
    const boxes = [...form.querySelectorAll<HTMLInputElement>("input[name=sensor]")];
    setBusy(true);
    setProblem("");
    try {
      const record = await publish(review.id, {
        change_note: String(said.get("note") ?? ""),
        request,
        without_sensors: boxes.filter((box) => !box.checked).map((box) => box.value),
        with_files: said.has("with_files"),
      });
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
    <Dialog open onClose={onClose} title={`Publish edition ${edition}`}>
      <form onSubmit={(event) => void submit(event)}>
        <p className="mb-3">
          The question, the verdict, the configurations, all figures and the captures below become readable
          for everybody who has the address. A record stays as it is; a correction is a new edition.
        </p>
        <p className="mb-3 text-note">
          {signed.length
            ? `Signed by ${signed.map((one) => `${one.by} (${one.role})`).join(" and ")}.`
            : "Nobody has signed it; the record says so."}{" "}
          {open
            ? `${count(open, "point")} still open; the record lists ${open === 1 ? "it" : "them"} as open.`
            : "Nothing is open."}
        </p>
        <RawFiles review={review.id} />
        {edition > 1 && (
          <Field label="What changed since the last edition" hint="Readers will see it.">
            <input name="note" required maxLength={300} autoComplete="off" />
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
