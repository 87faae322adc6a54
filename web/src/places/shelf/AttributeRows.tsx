import { useState } from "react";
import type { CatalogueShape, Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { TableHead } from "../../design/TableHead";

type Attribute = Shapes["AttributeShape"];
type Spec = Shapes["SpecShape"];

interface Props {
  kind: string;
  catalogue: CatalogueShape;
  attributes: Attribute[];
}

const INPUT = "w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink";

function specsOf(catalogue: CatalogueShape, kind: string): Spec[] {
  return catalogue.kinds.find((one) => one.key === kind)?.attributes ?? [];
}

/** The attributes of a kind as rows of a form, with free ones below; a unit may be typed with the value. */
export function AttributeRows({ kind, catalogue, attributes }: Props) {
  const specs = specsOf(catalogue, kind);
  const [free, setFree] = useState(() =>
    attributes.filter((one) => !specs.some((spec) => spec.key === one.key)).map((one) => one.key),
  );
  const valueOf = (key: string) => attributes.find((one) => one.key === key);
  return (
    <table className="w-full border-collapse text-note">
      <TableHead columns={["Attribute", "Value", "Known from"]} />
      <tbody>
        {specs.map((spec) => (
          <tr key={spec.key} className="border-t border-line">
            <th scope="row" className="py-1 pr-3 text-left font-normal">
              {spec.label}
              {spec.unit && <span className="text-quiet"> in {spec.unit}</span>}
            </th>
            <td className="py-1 pr-3">
              <Value spec={spec} value={valueOf(spec.key)?.value} />
            </td>
            <td className="py-1">
              <Source name={spec.key} catalogue={catalogue} value={valueOf(spec.key)?.source} />
            </td>
          </tr>
        ))}
        {free.map((key, at) => (
          <tr key={at} className="border-t border-line">
            <td className="py-1 pr-3">
              <input
                name={`free-key-${at}`}
                aria-label="Name of a free attribute"
                defaultValue={key}
                className={INPUT}
              />
            </td>
            <td className="py-1 pr-3">
              <input
                name={`free-value-${at}`}
                aria-label="Value of a free attribute"
                defaultValue={String(valueOf(key)?.value ?? "")}
                className={INPUT}
              />
            </td>
            <td className="py-1">
              <Source name={`free-${at}`} catalogue={catalogue} value={valueOf(key)?.source} />
            </td>
          </tr>
        ))}
        <tr className="border-t border-line">
          <td colSpan={3} className="py-1">
            <Button kind="link" onClick={() => setFree((all) => [...all, ""])}>
              One more attribute
            </Button>
          </td>
        </tr>
      </tbody>
    </table>
  );
}

function Value({ spec, value }: { spec: Spec; value: unknown }) {
  const name = `value-${spec.key}`;
  const text = value === undefined || value === null ? "" : String(value);
  const choices = spec.kind === "yes_no" ? ["true", "false"] : spec.choices.map(String);
  if (choices.length) {
    return (
      <select name={name} aria-label={spec.label} defaultValue={text} className={INPUT}>
        <option value="">not known</option>
        {choices.map((choice) => (
          <option key={choice} value={choice}>
            {choice === "true" ? "yes" : choice === "false" ? "no" : choice}
          </option>
        ))}
      </select>
    );
  }
  return <input name={name} aria-label={spec.label} defaultValue={text} className={INPUT} />;
}

function Source({ name, catalogue, value }: { name: string; catalogue: CatalogueShape; value?: string }) {
  return (
    <select
      name={`source-${name}`}
      aria-label={`Where ${name} is known from`}
      defaultValue={value ?? "unknown"}
      className={INPUT}
    >
      <option value="unknown">not said</option>
      {catalogue.sources
        .filter((source) => source !== "unknown")
        .map((source) => (
          <option key={source}>{source}</option>
        ))}
    </select>
  );
}

/** The attributes that a form holds; one without a value is unknown when it was there before, and left out otherwise. */
export function attributesOf(
  form: FormData,
  kind: string,
  catalogue: CatalogueShape,
  before: Attribute[],
): { key: string; value: string | null; source: string }[] {
  const text = (name: string) => String(form.get(name) ?? "").trim();
  const made: { key: string; value: string | null; source: string }[] = [];
  for (const spec of specsOf(catalogue, kind)) {
    const value = text(`value-${spec.key}`);
    if (value) made.push({ key: spec.key, value, source: text(`source-${spec.key}`) });
    else if (before.some((one) => one.key === spec.key)) {
      made.push({ key: spec.key, value: null, source: "unknown" });
    }
  }
  for (let at = 0; form.has(`free-key-${at}`); at++) {
    const key = text(`free-key-${at}`);
    const value = text(`free-value-${at}`);
    if (key && value) made.push({ key, value, source: text(`source-free-${at}`) });
  }
  return made;
}
