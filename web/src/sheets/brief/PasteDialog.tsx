import { useState } from "react";
import { act as plainAct } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { count } from "../../marks/words";
import type { BriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";

interface Props {
  text: string;
  act: BriefAct;
  onClose: () => void;
}

/** A table from a spreadsheet: first what it would change, then the change. */
export function PasteDialog({ text: first, act, onClose }: Props) {
  const review = useReview();
  const [text, setText] = useState(first);
  const [preview, setPreview] = useState<Shapes["PastedChange"][] | null>(null);
  const [problem, setProblem] = useState("");
  const look = async () => {
    setProblem("");
    try {
      const path = `/api/reviews/${review.id}/paste`;
      const found = await plainAct<Shapes["PastedShape"]>("POST", path, { text, store: false });
      setPreview(found.changes);
    } catch (error) {
      setPreview(null);
      setProblem((error as Error).message);
    }
  };
  const store = async () => {
    const done = await act("POST", "/paste", { text, store: true }, { said: "The settings are made." });
    if (done) onClose();
  };
  const heads = ["", ...review.columns.map((column) => column.label)].join("\t");
  return (
    <Dialog open onClose={onClose} title="Paste settings from a table" wide>
      <Field
        label="The table"
        hint="The first line names configurations, the first column settings. An empty cell leaves a value as it is, a dash takes it away."
      >
        <textarea
          rows={6}
          value={text}
          placeholder={`${heads}\npower limit\t35\t20`}
          spellCheck={false}
          onChange={(event) => {
            setText(event.target.value);
            setPreview(null);
          }}
        />
      </Field>
      {problem && (
        <p role="alert" className="mb-3 text-note text-mark">
          {problem}
        </p>
      )}
      {preview && (
        <div className="mb-3 text-note" role="status">
          <p className="font-semibold">
            {preview.length ? `${count(preview.length, "value")} would change:` : "Nothing would change."}
          </p>
          <ul className="max-h-48 overflow-auto">
            {preview.map((one, at) => (
              <li key={at} className="border-t border-line py-0.5">
                {one.column}: {one.setting} <span className="text-quiet">{one.before}</span> →{" "}
                <strong>{one.after}</strong>
              </li>
            ))}
          </ul>
        </div>
      )}
      <div className="flex gap-3">
        {preview?.length ? (
          <Button kind="strong" onClick={() => void store()}>
            Make these changes
          </Button>
        ) : (
          <Button kind="strong" disabled={!text.trim()} onClick={() => void look()}>
            See what would change
          </Button>
        )}
        <Button onClick={onClose}>Not now</Button>
      </div>
    </Dialog>
  );
}
