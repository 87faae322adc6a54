import { useState, type FormEvent } from "react";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import type { Finding } from "./listed";
import type { Pins } from "./usePins";

interface Props {
  finding: Finding;
  pin: NonNullable<Finding["pin"]>;
  pins: Pins;
}

/** A pin: what the finding said when it was pinned, what changed since, its note, and its place among the pinned. */
export function PinOf({ finding, pin, pins }: Props) {
  const may = useMay();
  const [note, setNote] = useState(pin.note);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void pins.note(finding, note);
  };
  return (
    <div className="mt-3 border-t border-line pt-2 text-note">
      <p>
        <span className="text-mark">◆</span> pinned by {pin.by}
        {pin.said !== finding.sentence && <>, when it said: “{pin.said}”</>}
      </p>
      {pin.changed && (
        <p className="mt-1">
          <span className="text-mark">{pin.changed}</span>{" "}
          {may("record") && (
            <Button kind="link" onClick={() => void pins.seen(pin.id)}>
              I have seen this
            </Button>
          )}
        </p>
      )}
      {may("edit_review") && (
        <form onSubmit={submit} className="mt-1 flex flex-wrap items-end gap-3 print:hidden">
          <Field label="Note">
            <input value={note} maxLength={400} onChange={(event) => setNote(event.target.value)} />
          </Field>
          <Button type="submit" disabled={note === pin.note}>
            Save the note
          </Button>
          <Button onClick={() => void pins.move(finding, -1)}>Move up</Button>
          <Button onClick={() => void pins.move(finding, 1)}>Move down</Button>
        </form>
      )}
    </div>
  );
}
