import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { draftsHeld, dropDrafts } from "../design/useDraft";
import { count } from "../marks/words";

interface Props {
  onLeave: () => void;
  onStay: () => void;
}

/** Asked of somebody who signs out while texts of theirs are in this browser alone. */
export function Leaving({ onLeave, onStay }: Props) {
  return (
    <Dialog open onClose={onStay} title="Not everything is stored">
      <p className="mb-4">
        What was typed into {count(draftsHeld(), "form")} was not sent. It is in this browser only, where
        whoever signs in here next would find it.
      </p>
      <div className="flex flex-wrap gap-3">
        <Button
          kind="strong"
          onClick={() => {
            dropDrafts();
            onLeave();
          }}
        >
          Throw it away and sign out
        </Button>
        <Button onClick={onLeave}>Keep it here and sign out</Button>
        <Button onClick={onStay}>Stay</Button>
      </div>
    </Dialog>
  );
}
