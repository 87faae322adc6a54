import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import type { ReviewShape, Shapes } from "../../../api/client";
import { act, editHypothesis } from "../../../api/acts";
import { hypothesesQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { columnOf, testOf } from "../../../api/lookup";
import type { CellPlace } from "../place";
import { useReview } from "../../../api/review";
import { useMay } from "../../../api/session";

type Hypothesis = Shapes["HypothesisShape"];

interface Props {
  cell: CellPlace;
}

const STATUS: Record<string, string> = {
  open: "open",
  asserted: "asserted, not tested",
  tested: "tested and held",
  refuted: "refuted",
};
const SIGN: Record<string, string> = { open: "○", asserted: "◌", tested: "●", refuted: "✕" };

/** Rival explanations of what a cell shows, each with the test that would decide. */
export function Hypotheses({ cell }: Props) {
  const may = useMay();
  const review = useReview();
  const run = useAct();
  const query = useQuery(hypothesesQuery(review.id));
  const [editing, setEditing] = useState<Hypothesis | "new" | null>(null);
  const own = (query.data ?? []).filter((one) => one.test === null || one.test === cell.test);
  const edits = may("edit_review");
  const onDocket = (one: Hypothesis) =>
    void run(
      () =>
        act("POST", `/api/hypotheses/${one.id}/docket`, {
          columns: one.column === null ? review.columns.map((column) => column.id) : columnsFor(review, one),
        }),
      { said: "The test that decides is on the docket.", made: "hypotheses" },
    );
  return (
    <section aria-label="Explanations" className="border-t border-line pt-2">
      <div className="flex items-baseline gap-3">
        <h3 className="text-note font-semibold">Explanations</h3>
        {edits && (
          <Button kind="link" onClick={() => setEditing("new")}>
            Note one
          </Button>
        )}
      </div>
      {!own.length && (
        <p className="text-note text-quiet">
          None yet. Where two causes are possible, note both, with the test that would decide between them.
        </p>
      )}
      <ul>
        {own.map((one) => (
          <li key={one.id} className="border-b border-line py-1 text-note">
            <span aria-hidden="true">{SIGN[one.status]} </span>
            <strong className={one.status === "refuted" ? "line-through" : ""}>{one.words}</strong>{" "}
            <span className="text-quiet">
              {STATUS[one.status]}
              {one.column !== null && `, ${columnOf(review, one.column)?.label}`}, by {one.by}
            </span>
            {one.grounds && <div>Seen: {one.grounds}</div>}
            {(one.decided_by || one.deciding_test !== null) && (
              <div className="text-quiet">
                Decided by: {one.decided_by || testName(review, one.deciding_test)}
              </div>
            )}
            <span className="flex gap-3">
              {edits && (
                <Button kind="link" onClick={() => setEditing(one)}>
                  Change
                </Button>
              )}
              {one.deciding_test !== null && may("ask_for_passes") && (
                <Button kind="link" onClick={() => onDocket(one)}>
                  Put {testName(review, one.deciding_test)} on the docket
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
      {editing && (
        <HypothesisDialog
          cell={cell}
          held={editing === "new" ? null : editing}
          onClose={() => setEditing(null)}
        />
      )}
    </section>
  );
}

/** The configurations that decide: the one it is about, and the baseline. */
function columnsFor(review: ReviewShape, one: Hypothesis): number[] {
  const baseline = review.columns.find((column) => column.is_baseline)?.id;
  return [...new Set([one.column ?? 0, baseline ?? 0])].filter(Boolean);
}

function testName(review: ReviewShape, id: number | null): string {
  const test = id === null ? undefined : testOf(review, id);
  return test ? [test.name, test.detail].filter(Boolean).join(", ") : "";
}

interface DialogProps {
  cell: CellPlace;
  held: Hypothesis | null;
  onClose: () => void;
}

function HypothesisDialog({ cell, held, onClose }: DialogProps) {
  const review = useReview();
  const run = useAct();
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const said = (name: string) => String(form.get(name) ?? "").trim();
    const content = {
      words: said("words"),
      status: said("status"),
      grounds: said("grounds"),
      decided_by: said("decided_by"),
      deciding_test: said("deciding_test") ? Number(said("deciding_test")) : null,
    };
    const done = await run(
      () =>
        held
          ? editHypothesis(held.id, held.version, content)
          : act("POST", `/api/reviews/${review.id}/hypotheses`, {
              ...content,
              test: cell.test,
              column: cell.column,
            }),
      { said: held ? "The explanation is changed." : "The explanation is noted.", made: "hypotheses" },
    );
    if (done) onClose();
  };
  return (
    <Dialog open onClose={onClose} title={held ? "Change an explanation" : "Note an explanation"}>
      <form onSubmit={(event) => void submit(event)}>
        <Field label="What may be the cause">
          <textarea name="words" rows={2} required maxLength={400} autoFocus defaultValue={held?.words} />
        </Field>
        <Field label="Status">
          <select name="status" defaultValue={held?.status ?? "open"}>
            {Object.entries(STATUS).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        <Field label="What was seen" hint="Needed for one that is tested or refuted.">
          <input name="grounds" maxLength={400} defaultValue={held?.grounds} autoComplete="off" />
        </Field>
        <Field label="What would decide, in words">
          <input name="decided_by" maxLength={300} defaultValue={held?.decided_by} autoComplete="off" />
        </Field>
        <Field label="The test of this review that would decide">
          <select name="deciding_test" defaultValue={held?.deciding_test ?? ""}>
            <option value="">none of them</option>
            {review.tests.map((test) => (
              <option key={test.id} value={test.id}>
                {testName(review, test.id)}
              </option>
            ))}
          </select>
        </Field>
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            Keep it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
