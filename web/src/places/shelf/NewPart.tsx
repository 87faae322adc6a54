import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { CatalogueShape, PartShape } from "../../api/client";
import { keys } from "../../api/queries";
import { CreateDialog } from "../../design/CreateDialog";
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
  return (
    <CreateDialog<PartShape>
      title="Add a part"
      path="/api/parts"
      bodyOf={(form) => ({
        kind,
        name: form.get("name"),
        origin: form.get("origin"),
        attributes: attributesOf(form, kind, catalogue, []),
      })}
      wide
      onMade={(made) => {
        void client.invalidateQueries({ queryKey: keys.parts });
        onMade(made.id);
        onClose();
      }}
      onClose={onClose}
    >
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
    </CreateDialog>
  );
}
