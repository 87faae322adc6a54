import { useState, type FormEvent, type ReactNode } from "react";
import { act } from "../api/acts";
import { Button } from "./Button";
import { Dialog } from "./Dialog";
import { DraftNote } from "./DraftNote";
import { markMistakes } from "./mistaken";
import { useFormDraft } from "./useFormDraft";

interface Props<T> {
  title: string;
  /** Where the form is sent; its fields are the body, unless `bodyOf` makes another. */
  path: string;
  bodyOf?: (form: FormData) => unknown;
  submit?: string;
  wide?: boolean;
  onMade: (made: T) => void;
  onClose: () => void;
  children: ReactNode;
}

/** A dialog that makes one new object; what the server refuses is said in it, and nothing typed is lost. */
export function CreateDialog<T>({
  title,
  path,
  bodyOf,
  submit = "Add",
  wide,
  onMade,
  onClose,
  children,
}: Props<T>) {
  const [problem, setProblem] = useState("");
  const [form, setForm] = useState<HTMLFormElement | null>(null);
  const draft = useFormDraft(`${path} ${title}`, form);
  const send = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    // It may stand within another form, which is not what is sent.
    event.stopPropagation();
    const fields = new FormData(event.currentTarget);
    try {
      const made = await act<T>("POST", path, bodyOf ? bodyOf(fields) : Object.fromEntries(fields));
      draft.drop();
      onMade(made);
    } catch (error) {
      setProblem((error as Error).message);
      markMistakes(form, error);
    }
  };
  return (
    <Dialog open onClose={onClose} title={title} wide={wide}>
      <form ref={setForm} onInput={draft.keep} onChange={draft.keep} onSubmit={(event) => void send(event)}>
        {draft.back && <DraftNote />}
        {children}
        {problem && (
          <p role="alert" className="my-3 text-note text-mark">
            {problem}
          </p>
        )}
        <div className="mt-3 flex gap-3">
          <Button kind="strong" type="submit">
            {submit}
          </Button>
          <Button
            onClick={() => {
              draft.drop();
              onClose();
            }}
          >
            Not now
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
