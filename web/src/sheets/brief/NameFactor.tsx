import { useState, type FormEvent } from "react";
import type { ReviewShape } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { Seal } from "../../marks/Seal";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";

interface AllFactors {
  factors: ReviewShape["factors"];
  levels: Record<string, Record<string, string>>;
}

/** All factors of a review with every configuration's levels, as they are stored at once. */
export function allOf(review: ReviewShape): AllFactors {
  return {
    factors: review.factors,
    levels: Object.fromEntries(review.columns.map((column) => [String(column.id), column.levels])),
  };
}

/** A factor that no setting or part stands for, such as the place or the person: its levels are said one by one. */
export function NameFactor({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const act = useBriefAct(review);
  // As they were when the dialog opened: what somebody else has changed since is not overwritten.
  const [tag] = useState(review.factors_tag);
  const [name, setName] = useState("");
  const [levels, setLevels] = useState<Record<string, string>>({});
  const store = async (event: FormEvent) => {
    event.preventDefault();
    const key = name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^[^a-z]+|_+$/g, "");
    const all = allOf(review);
    const given = review.columns.map((column) => (levels[column.id] ?? "").trim());
    const made = { key: key || "factor", name, aspects: [], levels: [...new Set(given)].filter(Boolean) };
    const saved = await act(
      "PUT",
      "/factors",
      {
        factors: [...all.factors, made],
        levels: Object.fromEntries(
          review.columns.map((column, at) => [
            String(column.id),
            { ...column.levels, [made.key]: given[at] ?? "" },
          ]),
        ),
      },
      { tag, said: `${name} is a factor now.`, undo: () => act("DELETE", `/factors/${made.key}`) },
    );
    if (saved) onClose();
  };
  return (
    <Dialog open onClose={onClose} title="A factor that is no setting">
      <form onSubmit={(event) => void store(event)}>
        <Field
          label="Its name"
          hint="Something that is varied and not set on the machine: the hall, the day, the player."
        >
          <input required maxLength={80} value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
        {review.columns.map((column) => (
          <label key={column.id} className="mb-1.5 flex items-center gap-2 text-note">
            <Seal position={column.position} label={column.label} size={17} />
            <span className="w-36">{column.label}</span>
            <input
              required
              maxLength={200}
              aria-label={`Level of ${column.label}`}
              value={levels[column.id] ?? ""}
              onChange={(event) => setLevels({ ...levels, [column.id]: event.target.value })}
              className="flex-1 border border-ink bg-sheet px-2 py-0.5 text-body"
            />
          </label>
        ))}
        <div className="mt-3 flex gap-3">
          <Button kind="strong" type="submit">
            Declare it
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
