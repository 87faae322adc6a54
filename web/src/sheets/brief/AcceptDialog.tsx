import { useState } from "react";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import type { BriefAct } from "./useBriefAct";

interface Props {
  row: Shapes["DifferenceRow"];
  act: BriefAct;
  onClose: () => void;
}

/** Live with a difference: its caveat is printed with every comparison that it touches. */
export function AcceptDialog({ row, act, onClose }: Props) {
  const [words, setWords] = useState("");
  const store = async () => {
    const saved = await act(
      "PUT",
      "/caveats",
      { aspect: row.key, words },
      {
        said: "Accepted; the caveat goes with every comparison that it touches.",
        undo: () => act("DELETE", `/caveats/${encodeURIComponent(row.key)}`),
      },
    );
    if (saved) onClose();
  };
  return (
    <Dialog open onClose={onClose} title={`Accept that ${row.label} differs`}>
      <Field label="What it may do to the figures" hint="Readers see this beside the comparison.">
        <textarea rows={3} maxLength={300} value={words} onChange={(event) => setWords(event.target.value)} />
      </Field>
      <div className="flex gap-3">
        <Button kind="strong" disabled={!words.trim()} onClick={() => void store()}>
          Accept with this caveat
        </Button>
        <Button onClick={onClose}>Not now</Button>
      </div>
    </Dialog>
  );
}
