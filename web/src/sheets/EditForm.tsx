import type { FormEvent, ReactNode } from "react";
import type { ReviewEdit } from "../api/acts";
import type { ReviewShape } from "../api/client";
import { Button } from "../design/Button";
import { useReviewEdit } from "./useReviewEdit";

interface Props {
  /** The review as it was when the edit began. */
  began: ReviewShape;
  label: string;
  changesOf: (form: FormData) => ReviewEdit;
  onClose: () => void;
  children: ReactNode;
}

/** A form that edits a review. What somebody else has stored meanwhile is shown, and overwritten only when asked to. */
export function EditForm({ began, label, changesOf, onClose, children }: Props) {
  const edit = useReviewEdit(began.id, began.version);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const changes = changesOf(new FormData(event.currentTarget));
    if (await edit.save(changes, edit.theirs?.version)) onClose();
  };
  return (
    <form onSubmit={(event) => void submit(event)} aria-label={label}>
      {children}
      {edit.problem && (
        <div role="alert" className="mb-3 border border-mark p-2 text-note">
          <p>{edit.problem}</p>
          {edit.theirs && <Theirs began={began} theirs={edit.theirs} />}
        </div>
      )}
      <div className="flex gap-3">
        <Button kind="strong" type="submit" disabled={edit.busy}>
          {edit.theirs ? "Save mine over it" : "Save"}
        </Button>
        <Button onClick={onClose}>Leave as it is</Button>
      </div>
    </form>
  );
}

const COMPARED: [keyof ReviewShape, string][] = [
  ["question", "Question"],
  ["expectation", "Expected"],
  ["audience", "For"],
  ["constant", "Held constant"],
  ["margin", "Margin"],
  ["low_definition", "Low"],
  ["verdict", "Verdict"],
];

/** What somebody else has stored meanwhile, field by field. */
function Theirs({ began, theirs }: { began: ReviewShape; theirs: ReviewShape }) {
  const changed = COMPARED.filter(([field]) => began[field] !== theirs[field]);
  return (
    <dl className="mt-2">
      {changed.map(([field, words]) => (
        <div key={field}>
          <dt className="font-semibold">{words} is now</dt>
          <dd className="mb-1 font-serif">{String(theirs[field])}</dd>
        </div>
      ))}
    </dl>
  );
}
