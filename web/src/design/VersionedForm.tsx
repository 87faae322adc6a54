import { useRef, useState, type FormEvent, type ReactNode } from "react";
import { Button } from "./Button";
import { DraftNote } from "./DraftNote";
import { useNotices } from "./Notices";
import { useFormDraft } from "./useFormDraft";
import { changed, useVersioned } from "./useVersioned";

interface Props<T extends object, V> {
  /** The object as it was when the edit began. */
  began: T;
  version: (object: T) => V;
  store: (version: V, changes: Partial<T>) => Promise<T>;
  label: string;
  /** What the form holds; null keeps it open, with its own words about what is wrong. */
  changesOf: (form: FormData) => Partial<T> | null;
  words: Partial<Record<keyof T, string>>;
  onSaved: (saved: T) => void;
  onClose: () => void;
  children: ReactNode;
}

/** A form that edits an object with a version; what two people have changed is settled field by field. */
export function VersionedForm<T extends object, V>(props: Props<T, V>) {
  const edit = useVersioned(props.began, props.version, props.store);
  const [form, setForm] = useState<HTMLFormElement | null>(null);
  const draft = useFormDraft(`${props.label} ${String((props.began as { id?: unknown }).id)}`, form);
  const [mine, setMine] = useState<(keyof T)[]>([]);
  const sent = useRef<Partial<T>>({});
  const { tell, warn } = useNotices();
  const done = (saved: T | null) => {
    if (!saved) return;
    draft.drop();
    props.onSaved(saved);
    props.onClose();
    const before = Object.fromEntries(
      Object.keys(sent.current).map((field) => [field, props.began[field as keyof T]]),
    ) as Partial<T>;
    if (!Object.keys(before).length) return;
    tell("Saved.", () => {
      props
        .store(props.version(saved), before)
        .then(props.onSaved)
        .catch((error: Error) => warn(error.message));
    });
  };
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    if (edit.conflicts.length) return done(await edit.settle(mine));
    const changes = props.changesOf(new FormData(event.currentTarget));
    if (!changes) return;
    sent.current = changed(props.began, changes);
    done(await edit.save(sent.current));
  };
  return (
    <form
      ref={setForm}
      onInput={draft.keep}
      onChange={draft.keep}
      onSubmit={(event) => void submit(event)}
      aria-label={props.label}
    >
      {draft.back && <DraftNote />}
      {props.children}
      {edit.problem && (
        <div role="alert" className="mb-3 border border-mark p-2 text-note">
          <p>{edit.problem}</p>
          {edit.conflicts.map((conflict) => {
            const field = String(conflict.field);
            const keep = (own: boolean) =>
              setMine((all) => [
                ...all.filter((f) => f !== conflict.field),
                ...(own ? [conflict.field] : []),
              ]);
            return (
              <fieldset key={field} className="mt-2 border-t border-line pt-1">
                <legend className="font-semibold">{props.words[conflict.field] ?? field}</legend>
                <Choice name={field} checked={!mine.includes(conflict.field)} onChoose={() => keep(false)}>
                  theirs: <span className="font-serif">{shown(conflict.theirs)}</span>
                </Choice>
                <Choice name={field} checked={mine.includes(conflict.field)} onChoose={() => keep(true)}>
                  mine: <span className="font-serif">{shown(conflict.mine)}</span>
                </Choice>
              </fieldset>
            );
          })}
        </div>
      )}
      <div className="flex gap-3">
        <Button kind="strong" type="submit" disabled={edit.busy}>
          {edit.conflicts.length ? "Save what is chosen" : "Save"}
        </Button>
        <Button
          onClick={() => {
            draft.drop();
            props.onClose();
          }}
        >
          Leave as it is
        </Button>
      </div>
    </form>
  );
}

function Choice({
  name,
  checked,
  onChoose,
  children,
}: {
  name: string;
  checked: boolean;
  onChoose: () => void;
  children: ReactNode;
}) {
  return (
    <label className="flex gap-2 py-0.5">
      <input type="radio" name={`settle-${name}`} checked={checked} onChange={onChoose} />
      <span className="min-w-0 break-words">{children}</span>
    </label>
  );
}

function shown(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}
