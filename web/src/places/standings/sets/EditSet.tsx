import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { refresh } from "../../../api/stale";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { VersionedForm } from "../../../design/VersionedForm";

type Set = Shapes["SetStanding"];

const WORDS = { name: "Name", note: "Note", margin: "Margin", items: "Tests" };

interface Props {
  set: Set;
  onSaved: (saved: Set) => void;
  onClose: () => void;
}

/** Name, weights and tests of a set; what is saved is its next edition. */
export function EditSet({ set, onSaved, onClose }: Props) {
  const client = useQueryClient();
  const [items, setItems] = useState(set.items);
  return (
    <Dialog open onClose={onClose} title={`Edit ${set.name}`} wide>
      <p className="mb-3 text-note text-quiet">
        Saved, it is edition {set.edition + 1}; edition {set.edition} stays as it is. Tests are added from a
        standing or from the brief of a review.
      </p>
      <VersionedForm
        label="The set"
        began={set}
        version={(one: Set) => one.edition}
        store={(edition: number, changes) =>
          act<Set>("PATCH", `/api/test-sets/${set.id}`, changes, `v${edition}`)
        }
        changesOf={(form) => ({
          name: String(form.get("name")),
          note: String(form.get("note")),
          margin: Number(form.get("margin")) / 100,
          items: items.map((item) => ({ ...item, weight: Number(form.get(`weight ${item.words}`)) || 1 })),
        })}
        words={WORDS}
        onSaved={(saved) => {
          void refresh(client, "standings");
          onSaved(saved);
        }}
        onClose={onClose}
      >
        <Field label="Name">
          <input name="name" required maxLength={80} defaultValue={set.name} />
        </Field>
        <Field label="What it is for">
          <textarea name="note" rows={2} maxLength={2000} defaultValue={set.note} />
        </Field>
        <Field label="Margin in %" hint="Less than this makes no difference in practice.">
          <input
            name="margin"
            type="number"
            min={0.1}
            max={50}
            step={0.1}
            defaultValue={Number((100 * set.margin).toPrecision(6))}
          />
        </Field>
        <fieldset className="mb-3">
          <legend className="mb-1 text-note font-semibold">Tests and their weights</legend>
          {items.map((item) => (
            <div key={item.words} className="flex items-baseline gap-3 border-t border-line py-1 text-note">
              <label className="flex min-w-0 flex-1 items-baseline gap-3">
                <span className="min-w-0 flex-1">{item.words}</span>
                <input
                  name={`weight ${item.words}`}
                  type="number"
                  min={0.001}
                  max={1000}
                  step="any"
                  required
                  defaultValue={item.weight}
                  className="w-20 border border-ink bg-sheet px-1.5"
                />
              </label>
              {items.length > 1 && (
                <Button
                  kind="link"
                  aria-label={`take ${item.words} out`}
                  onClick={() => setItems(items.filter((one) => one !== item))}
                >
                  take out
                </Button>
              )}
            </div>
          ))}
        </fieldset>
      </VersionedForm>
    </Dialog>
  );
}
