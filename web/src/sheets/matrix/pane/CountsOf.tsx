import { useState, type FormEvent } from "react";
import type { CellDetail, ReviewShape, TestShape } from "../../../api/client";
import { act, tagOf } from "../../../api/acts";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { useReview } from "../../../api/review";
import { useMay } from "../../../api/session";

interface Props {
  test: TestShape;
  details: (CellDetail | undefined)[];
}

/** Which parts of every pass count, where the test says so; and where it can be said. */
export function CountsOf({ test, details }: Props) {
  const may = useMay();
  const review = useReview();
  const [choosing, setChoosing] = useState(false);
  const run = useAct();
  const marked = details.flatMap((detail) => detail?.passes ?? []).flatMap((pass) => pass.marks);
  const held = test.counts as { rule?: string; labels?: string[] };
  const labels = [
    ...new Set([
      ...marked.filter((mark) => mark.end_s !== null && mark.grade === null).map((mark) => mark.label),
      ...(held.labels ?? []),
    ]),
  ];
  if (!labels.length) return null;
  const words = held.rule
    ? `${held.rule === "only" ? "Only" : "All but"} ${held.labels?.join(", ")} counts, in every pass.`
    : "All of every pass counts.";
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const rule = String(form.get("rule"));
    const chosen = form.getAll("label").map(String);
    const counts = rule === "all" || !chosen.length ? null : { rule, labels: chosen };
    const before = held.rule ? held : null;
    const path = `/api/reviews/${review.id}/tests/${test.id}`;
    const done = await run(() => act<ReviewShape>("PATCH", path, { counts }, test.tag), {
      said: "What counts is changed for every pass of this test; figures follow.",
      undo: (saved) => act("PATCH", path, { counts: before }, tagOf(saved, test.id)),
      made: "review",
    });
    if (done) setChoosing(false);
  };
  return (
    <p className="mb-2 text-note text-quiet">
      {words}{" "}
      {may("edit_review") && (
        <Button kind="link" onClick={() => setChoosing(true)}>
          Choose parts
        </Button>
      )}
      <Dialog open={choosing} onClose={() => setChoosing(false)} title="Which parts count">
        <form onSubmit={(event) => void submit(event)}>
          <Field label="Of every pass of this test">
            <select name="rule" defaultValue={held.rule ?? "all"}>
              <option value="all">all of it counts</option>
              <option value="only">only the chosen parts count</option>
              <option value="without">all but the chosen parts counts</option>
            </select>
          </Field>
          <fieldset className="mb-3">
            <legend className="mb-1 text-note font-semibold">Parts that were marked</legend>
            {labels.map((label) => (
              <label key={label} className="mr-4 inline-flex items-center gap-1.5">
                <input
                  type="checkbox"
                  name="label"
                  value={label}
                  defaultChecked={held.labels?.includes(label)}
                />
                {label}
              </label>
            ))}
          </fieldset>
          <p className="mb-3 text-note text-quiet">
            A pass in which none of the only parts is marked has no figures, and says so.
          </p>
          <div className="flex gap-3">
            <Button kind="strong" type="submit">
              Apply
            </Button>
            <Button onClick={() => setChoosing(false)}>Leave it</Button>
          </div>
        </form>
      </Dialog>
    </p>
  );
}
