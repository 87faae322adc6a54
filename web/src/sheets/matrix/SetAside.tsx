import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { setAside, takeBack } from "../../api/acts";
import type { PassShape } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";

interface Props {
  review: number;
  pass: PassShape;
  onClose: () => void;
}

/** Leave a pass out of every figure, with a reason, or count it again. */
export function SetAside({ review, pass, onClose }: Props) {
  const client = useQueryClient();
  const { tell, warn } = useNotices();
  const [problem, setProblem] = useState("");
  const refresh = () => {
    for (const queryKey of [keys.matrix(review), keys.cells(review), keys.reviews]) {
      void client.invalidateQueries({ queryKey });
    }
  };
  const back = async () => {
    try {
      await takeBack(pass.id);
      refresh();
    } catch (error) {
      warn((error as Error).message);
    }
  };
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const reason = String(new FormData(event.currentTarget).get("reason") ?? "");
    try {
      if (pass.set_aside) {
        await takeBack(pass.id);
        tell(`Pass ${pass.number} counts again.`);
      } else {
        await setAside(pass.id, reason);
        tell(`Pass ${pass.number} is set aside; every figure leaves it out.`, () => void back());
      }
      refresh();
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${pass.set_aside ? "Take back" : "Set aside"} pass ${pass.number}`}
    >
      <form onSubmit={(event) => void submit(event)}>
        {pass.set_aside ? (
          <p className="mb-3">
            It counts again in every figure. That it was set aside, and why, stays on record.
          </p>
        ) : (
          <>
            <p className="mb-3">It stays on record with your name and reason, and can be taken back.</p>
            <Field label="Why">
              <input name="reason" required maxLength={300} autoFocus autoComplete="off" />
            </Field>
          </>
        )}
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            {pass.set_aside ? "Take back" : "Set aside"}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
