import { useState, type FormEvent } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";

interface Props {
  person: Shapes["Member"];
  onErased: (words: string) => void;
  onClose: () => void;
}

/** Takes somebody's name out of everything, after the name to sign in with was typed: there is no way back. */
export function EraseDialog({ person, onErased, onClose }: Props) {
  const [problem, setProblem] = useState("");
  const send = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = new FormData(event.currentTarget);
    const also = String(said.get("also")).trim();
    try {
      const body = {
        username: said.get("username"),
        in_records: said.has("in_records"),
        also: also ? [also] : [],
      };
      const erased = await act<Shapes["ErasedShape"]>("DELETE", `/api/people/${person.id}/data`, body);
      onErased(`${erased.changed} entries say ${erased.name} now.`);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} title={`Take out the name of ${person.display_name}`}>
      <form onSubmit={(event) => void send(event)}>
        <p className="mb-3 text-note">
          What was measured, said and decided stays, under a name that stands for nobody. Addresses, tokens
          and the e-mail address go. Captures and what programs wrote are not changed. Backups keep the name
          until they are let go of. <strong>There is no way back.</strong>
        </p>
        <Field label={`Type ${person.username} to say that it is meant`}>
          <input name="username" required autoComplete="off" autoCapitalize="none" />
        </Field>
        <Field label="Another name that stands for them" hint="Such as a short one, or the one of before.">
          <input name="also" maxLength={120} autoComplete="off" />
        </Field>
        <label className="mb-3 flex items-baseline gap-2 text-note">
          <input type="checkbox" name="in_records" /> in published records too, whose bytes change then
        </label>
        {problem && (
          <p role="alert" className="my-3 text-note text-mark">
            {problem}
          </p>
        )}
        <Button kind="strong" type="submit">
          Take the name out
        </Button>
      </form>
    </Dialog>
  );
}
