import { useState } from "react";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { useMay } from "../../../api/session";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { dayWords } from "../day";

/** A saved standing: published for everybody, withdrawn, or taken off the list. */
export function SavedDialog({ saved, onClose }: { saved: Shapes["SavedShape"]; onClose: () => void }) {
  const may = useMay();
  const run = useAct();
  const [frozen, setFrozen] = useState(true);
  const [why, setWhy] = useState("");
  const path = `/api/saved-standings/${saved.id}`;
  const publish = () =>
    void run(() => act("PUT", `${path}/published`, { frozen }), {
      said: `${saved.name} is published.`,
      made: "standings",
    });
  const withdraw = () =>
    void run(() => act("PUT", `${path}/withdrawn`, { why }), {
      said: `${saved.name} is withdrawn.`,
      made: "standings",
    });
  const takeOff = () =>
    void run(() => act("DELETE", path), { said: `${saved.name} is taken off.`, made: "standings" }).then(
      onClose,
    );
  return (
    <Dialog open onClose={onClose} title={saved.name}>
      <p className="mb-3 text-note text-quiet">
        Saved by {saved.by} on {dayWords(saved.saved_at)}.{" "}
        {saved.withdrawn_why && `Withdrawn: ${saved.withdrawn_why}`}
      </p>
      {saved.address ? (
        <>
          <p className="mb-3">
            <a className="underline" href={saved.address}>
              {new URL(saved.address, window.location.origin).href}
            </a>
            <span className="block text-note text-quiet">
              {saved.frozen
                ? `As it was on ${dayWords(saved.published_at ?? saved.saved_at)}, for good.`
                : "It follows the results."}
            </span>
          </p>
          {may("publish") && (
            <>
              <Field label="Why it is withdrawn" hint="Its address stays and says so.">
                <input value={why} maxLength={300} onChange={(event) => setWhy(event.target.value)} />
              </Field>
              <Button disabled={!why.trim()} onClick={withdraw}>
                Withdraw
              </Button>
            </>
          )}
        </>
      ) : (
        <>
          {may("publish") && (
            <>
              <fieldset className="mb-3 text-note">
                <legend className="mb-1 font-semibold">Publish it for everybody</legend>
                <label className="flex items-baseline gap-2">
                  <input type="radio" name="frozen" checked={frozen} onChange={() => setFrozen(true)} />
                  as it is now, for good
                </label>
                <label className="flex items-baseline gap-2">
                  <input type="radio" name="frozen" checked={!frozen} onChange={() => setFrozen(false)} />
                  following the results, worked out anew each minute
                </label>
                <p className="mt-1 text-quiet">
                  The page names machines and configurations, figures, days and warnings, and no question of a
                  review.
                </p>
              </fieldset>
              <Button kind="strong" onClick={publish}>
                Publish
              </Button>
            </>
          )}{" "}
          {may("follow_up") && <Button onClick={takeOff}>Take off the list</Button>}
        </>
      )}
    </Dialog>
  );
}
