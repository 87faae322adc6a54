import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { act } from "../../api/acts";
import type { CatalogueShape, PartShape } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { AttributeRows, attributesOf } from "./AttributeRows";

interface Props {
  catalogue: CatalogueShape;
  onClose: () => void;
  onMade: (part: number) => void;
}

/** A new part of a kind, with the attributes of its kind. */
export function NewPart({ catalogue, onClose, onMade }: Props) {
  const client = useQueryClient();
  const [kind, setKind] = useState("memory_kit");
  const [problem, setProblem] = useState("");
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    try {
      const made = await act<PartShape>("POST", "/api/parts", {
        kind,
        name: form.get("name"),
        origin: form.get("origin"),
        attributes: attributesOf(form, kind, catalogue, []),
      });
      await client.invalidateQueries({ queryKey: keys.parts });
      onMade(made.id);
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} title="Add a part" wide>
      <form onSubmit={(event) => void submit(event)}>
        <div className="grid grid-cols-3 gap-3">
          <Field label="Kind">
            <select value={kind} onChange={(event) => setKind(event.target.value)}>
              {catalogue.kinds.map((one) => (
                <option key={one.key} value={one.key}>
                  {one.label}
                </option>
              ))}
            </select>
          </Field>
          <Field label="Name">
            <input name="name" required maxLength={120} />
          </Field>
          <Field label="Origin">
            <select name="origin">
              {catalogue.origins.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </Field>
        </div>
        <AttributeRows key={kind} kind={kind} catalogue={catalogue} attributes={[]} />
        {problem && (
          <p role="alert" className="my-3 text-note text-mark">
            {problem}
          </p>
        )}
        <div className="mt-3 flex gap-3">
          <Button kind="strong" type="submit">
            Add
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
