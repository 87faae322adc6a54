import { useState } from "react";
import { act } from "../../api/acts";
import type { PassShape } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";

interface Props {
  pass: PassShape;
  figureOf: PassShape["figures"][number];
}

/** Puts a typed figure right; what it was stays among the pass's remarks. */
export function Correct({ pass, figureOf }: Props) {
  const run = useAct();
  const [open, setOpen] = useState(false);
  const [text, setText] = useState(String(figureOf.value));
  const [reason, setReason] = useState("");
  const send = () =>
    void run(() => act("PUT", `/api/passes/${pass.id}/figures/${figureOf.metric}`, { text, reason }), {
      said: "Put right; what it was is kept in the remarks.",
      made: "pass",
    }).then(() => setOpen(false));
  return (
    <>
      {" "}
      <Button kind="link" className="text-small" onClick={() => setOpen(true)}>
        put right
      </Button>
      {open && (
        <Dialog
          open
          onClose={() => setOpen(false)}
          title={`Put right: ${figureOf.label} of pass ${pass.number}`}
        >
          <form
            onSubmit={(event) => {
              event.preventDefault();
              send();
            }}
          >
            <Field label={`Figure in ${figureOf.unit || "plain numbers"}`}>
              <input value={text} required onChange={(event) => setText(event.target.value)} />
            </Field>
            <Field label="Why" hint="Kept with what it was before.">
              <input
                value={reason}
                required
                maxLength={250}
                onChange={(event) => setReason(event.target.value)}
              />
            </Field>
            <div className="flex gap-3">
              <Button kind="strong" type="submit">
                Put right
              </Button>
              <Button onClick={() => setOpen(false)}>Not now</Button>
            </div>
          </form>
        </Dialog>
      )}
    </>
  );
}
