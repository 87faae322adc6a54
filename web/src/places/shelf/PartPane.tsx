import { useState } from "react";
import { act, editPart } from "../../api/acts";
import type { CatalogueShape, PartShape } from "../../api/client";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { VersionedForm } from "../../design/VersionedForm";
import { withUnit } from "../../marks/words";
import { History } from "../../shell/History";
import { AttributeRows, attributesOf } from "./AttributeRows";
import { Prices } from "./Prices";
import { useKeeping } from "../../design/useKeeping";

interface Props {
  part: PartShape;
  catalogue: CatalogueShape;
  may: boolean;
  onClose: () => void;
  onChoose: (part: number | null) => void;
}

/** One part: what is known of it and from where, what follows from that, what it cost, and where it is. */
export function PartPane({ part, catalogue, may, onClose, onChoose }: Props) {
  const [editing, setEditing] = useState(false);
  const run = useAct();
  const path = `/api/parts/${part.id}`;
  const copy = async () => {
    const made = await run(() => act<PartShape>("POST", `${path}/copy`), {
      said: "Duplicated.",
      made: "shelf",
    });
    if (made) onChoose(made.id);
  };
  const { archive, remove } = useKeeping(path, part.name, "shelf");
  return (
    <aside className="w-[420px] shrink-0 border-l-2 border-ink pl-5" aria-label={part.name}>
      <div className="mb-1 flex items-start justify-between gap-3">
        <h2 className="font-serif text-lead font-semibold">{part.name}</h2>
        <Button kind="bare" aria-label="Close this part" onClick={onClose}>
          ×
        </Button>
      </div>
      <p className="mb-3 text-note text-quiet">
        {part.kind_label}, {part.origin === "not said" ? "origin not said" : part.origin}
        {part.origin_note && `, ${part.origin_note}`}
      </p>
      {editing ? (
        <EditPart part={part} catalogue={catalogue} onClose={() => setEditing(false)} />
      ) : (
        <>
          <Facts part={part} />
          {part.note && <p className="mb-3 font-serif">{part.note}</p>}
        </>
      )}
      <Prices part={part} catalogue={catalogue} may={may} />
      <h3 className="mt-4 text-note font-semibold">Fitted in</h3>
      <p className="mb-4 text-note text-quiet">
        {part.used_in.join(" · ") || "No configuration has it of its own."}
      </p>
      <div className="flex flex-wrap gap-x-4 gap-y-2">
        {may && !editing && <Button onClick={() => setEditing(true)}>Edit</Button>}
        {may && <Button onClick={() => void copy()}>Duplicate</Button>}
        {may && (
          <Button onClick={() => archive(!part.archived_at)}>
            {part.archived_at ? "Bring back" : "Archive"}
          </Button>
        )}
        {may && part.used_in.length === 0 && (
          <Button onClick={() => void remove(() => onChoose(null))}>Delete</Button>
        )}
        <History kind="part" id={part.id} name={part.name} />
      </div>
    </aside>
  );
}

const SIGNS: Record<string, string> = {
  label: "on the label",
  tool: "read by a tool",
  belief: "believed",
  unknown: "not known",
};

function Facts({ part }: { part: PartShape }) {
  return (
    <table className="mb-3 w-full border-collapse text-note">
      <tbody>
        {part.attributes.map((one) => (
          <tr key={one.key} className="border-t border-line">
            <th scope="row" className="py-0.5 pr-3 text-left font-normal text-quiet">
              {one.label}
            </th>
            <td className="py-0.5 pr-3">
              {one.value === null
                ? ""
                : typeof one.value === "boolean"
                  ? one.value
                    ? "yes"
                    : "no"
                  : `${String(one.value)} ${one.unit}`}
            </td>
            <td className={`py-0.5 ${one.source === "label" ? "text-quiet" : "italic"}`}>
              {SIGNS[one.source]}
            </td>
          </tr>
        ))}
        {part.derived.map((one) => (
          <tr key={one.label} className="border-t border-line bg-band/60">
            <th scope="row" className="py-0.5 pr-3 text-left font-normal text-quiet">
              {one.label}
            </th>
            <td className="py-0.5 pr-3 font-semibold">{withUnit(one.value, one.unit)}</td>
            <td className="py-0.5 text-quiet">{one.formula}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function EditPart({
  part,
  catalogue,
  onClose,
}: {
  part: PartShape;
  catalogue: CatalogueShape;
  onClose: () => void;
}) {
  const [began] = useState(part);
  const run = useAct();
  const text = (form: FormData, name: string) => String(form.get(name) ?? "");
  return (
    <VersionedForm
      began={began}
      version={(one) => one.version}
      store={(version, changes) => editPart(began.id, version, changes)}
      label={`Edit ${part.name}`}
      words={{ name: "Name", attributes: "Attributes", origin: "Origin", note: "Note" }}
      changesOf={(form) => ({
        name: text(form, "name"),
        origin: text(form, "origin") as PartShape["origin"],
        origin_note: text(form, "origin_note"),
        note: text(form, "note"),
        attributes: attributesOf(form, part.kind, catalogue, began.attributes) as PartShape["attributes"],
      })}
      onSaved={() => void run(() => Promise.resolve(), { made: "shelf" })}
      onClose={onClose}
    >
      <Field label="Name">
        <input name="name" required maxLength={120} defaultValue={began.name} />
      </Field>
      <AttributeRows kind={part.kind} catalogue={catalogue} attributes={began.attributes} />
      <div className="mt-3 grid grid-cols-2 gap-3">
        <Field label="Origin">
          <select name="origin" defaultValue={began.origin}>
            {catalogue.origins.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </Field>
        <Field label="More about its origin">
          <input name="origin_note" maxLength={200} defaultValue={began.origin_note} />
        </Field>
      </div>
      <Field label="Note">
        <textarea name="note" rows={2} defaultValue={began.note} />
      </Field>
    </VersionedForm>
  );
}
