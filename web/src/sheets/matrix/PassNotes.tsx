import { useState } from "react";
import { csrfToken, problemOf, type PassShape } from "../../api/client";
import { act } from "../../api/acts";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { useAct } from "../../design/useAct";
import { figure } from "../../marks/words";
import { spanWords } from "../running/MarkKeys";
import { useMay } from "../../api/session";
import { useVocabulary } from "../../api/vocabulary";

interface Props {
  pass: PassShape;
}

/** What people noted on a pass: parts of the run with their own figures, impressions, pictures. */
export function PassNotes({ pass }: Props) {
  const { grades } = useVocabulary();
  const may = useMay();
  const run = useAct();
  const [large, setLarge] = useState<PassShape["pictures"][number] | null>(null);
  const records = may("record");
  const upload = (file: File) =>
    void run(
      async () => {
        const form = new FormData();
        form.append("file", file);
        const response = await fetch(`/api/passes/${pass.id}/pictures`, {
          method: "POST",
          body: form,
          headers: { "X-CSRFToken": csrfToken() },
        });
        if (!response.ok) throw await problemOf(response);
        return (await response.json()) as { id: number };
      },
      {
        said: "The picture is on the pass, without the camera's data.",
        undo: (made) => act("DELETE", `/api/pictures/${made.id}`),
        made: "marks",
      },
    );
  return (
    <div className="pl-6">
      {pass.marks.length > 0 && (
        <ul className="text-small">
          {pass.marks.map((mark) => (
            <li key={mark.id} className="flex gap-2">
              <span className="w-24 shrink-0 text-quiet">{spanWords(mark)}</span>
              <span>
                {mark.label}
                {mark.grade !== null && `: ${grades[mark.grade]}`}
                {mark.words && `, ${mark.words}`}
                {mark.average_fps !== null && (
                  <>
                    {" "}
                    <strong>{figure(mark.average_fps)} fps</strong>
                    {mark.low_1pct !== null && (
                      <span className="text-quiet">
                        {" "}
                        · 1 % low {figure(mark.low_1pct)}
                        {mark.low_thin && " thin"}
                      </span>
                    )}
                  </>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {pass.pictures.length > 0 && (
        <div className="my-1 flex flex-wrap gap-1.5">
          {pass.pictures.map((picture) => (
            <button key={picture.id} type="button" onClick={() => setLarge(picture)} title={picture.caption}>
              <img
                src={`/api/pictures/${picture.id}?small`}
                alt={picture.caption || "picture of this pass"}
                className="h-14 border border-line"
              />
            </button>
          ))}
        </div>
      )}
      {records && (
        <div className="flex flex-wrap gap-x-3 text-small">
          <label className="cursor-pointer underline decoration-line">
            add a picture
            <input
              type="file"
              accept="image/jpeg,image/png,image/webp"
              className="sr-only"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) upload(file);
              }}
            />
          </label>
          <AddNote pass={pass} />
        </div>
      )}
      {large && (
        <Dialog open wide onClose={() => setLarge(null)} title={large.caption || `Pass ${pass.number}`}>
          <img
            src={`/api/pictures/${large.id}`}
            alt={large.caption || "picture of this pass"}
            className="max-h-[65vh]"
          />
          <p className="mt-2 flex justify-between text-note text-quiet">
            {large.by}, {large.width} × {large.height}
            {records && (
              <Button
                kind="link"
                onClick={() => {
                  const { id } = large;
                  void run(() => act("DELETE", `/api/pictures/${id}`), {
                    said: "The picture is off.",
                    undo: () => act("PUT", `/api/pictures/${id}/back`),
                    made: "marks",
                  });
                  setLarge(null);
                }}
              >
                take it off
              </Button>
            )}
          </p>
        </Dialog>
      )}
    </div>
  );
}

/** A part of the run or an impression noted afterwards. */
function AddNote({ pass }: { pass: PassShape }) {
  const { spans, impressions, grades } = useVocabulary();
  const run = useAct();
  const [open, setOpen] = useState(false);
  const [label, setLabel] = useState("");
  const [grade, setGrade] = useState("");
  const [from, setFrom] = useState("0");
  const [to, setTo] = useState("");
  if (!open) {
    return (
      <Button kind="link" className="text-small" onClick={() => setOpen(true)}>
        note a part or an impression
      </Button>
    );
  }
  const dress = "border border-ink bg-sheet px-1.5 py-0.5 text-note";
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  return (
    <form
      className="mt-1 flex w-full flex-wrap items-end gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        const body = { label, grade: number(grade), start_s: number(from), end_s: number(to) };
        void run(() => act("POST", `/api/passes/${pass.id}/marks`, body), { said: "Noted.", made: "marks" });
        setOpen(false);
      }}
    >
      <input
        aria-label="What it was"
        list={`labels-${pass.id}`}
        className={`${dress} w-28`}
        value={label}
        required
        maxLength={60}
        onChange={(event) => setLabel(event.target.value)}
        placeholder="crowd, stutter …"
      />
      <datalist id={`labels-${pass.id}`}>
        {[...spans, ...impressions].map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <select
        aria-label="Grade of an impression"
        className={dress}
        value={grade}
        onChange={(event) => setGrade(event.target.value)}
      >
        <option value="">no grade</option>
        {grades.map((one, at) => (
          <option key={one} value={at}>
            {at} {one}
          </option>
        ))}
      </select>
      <input
        aria-label="From second"
        className={`${dress} w-14`}
        value={from}
        required
        onChange={(event) => setFrom(event.target.value)}
      />
      <span>to</span>
      <input
        aria-label="To second"
        className={`${dress} w-14`}
        value={to}
        onChange={(event) => setTo(event.target.value)}
      />
      <span>s</span>
      <Button type="submit">Note</Button>
    </form>
  );
}
