import { useState } from "react";
import type { Shapes } from "../../api/client";
import { useReview } from "../../api/review";
import { refresh } from "../../api/stale";
import { useVocabulary } from "../../api/vocabulary";
import { CreateDialog } from "../../design/CreateDialog";
import { Field } from "../../design/Field";
import { useQueryClient } from "@tanstack/react-query";
import { Seal } from "../../marks/Seal";
import type { Finding } from "./listed";
import { ConfigurationOptions } from "../ConfigurationOptions";

type Kind = Shapes["FindingKindShape"];

interface Props {
  kinds: Kind[];
  /** The finding that is looked at: what is drawn is of its kind at first. */
  about?: Finding;
  onClose: () => void;
  onDrawn: (finding: Finding | undefined) => void;
}

/** A kind of finding about something else than proposed; it stays in the list for everybody. */
export function DrawAnother({ kinds, about, onClose, onDrawn }: Props) {
  const review = useReview();
  const client = useQueryClient();
  const { price_bases } = useVocabulary();
  const offered = kinds.filter((kind) => kind.offers.length > 0);
  const [key, setKey] = useState(
    offered.some((kind) => kind.key === about?.kind) ? (about?.kind ?? "") : (offered[0]?.key ?? ""),
  );
  const offers = new Set(offered.find((kind) => kind.key === key)?.offers);
  return (
    <CreateDialog<Shapes["FindingsShape"]>
      title="Draw another finding"
      path={`/api/reviews/${review.id}/findings/drawn`}
      submit="Draw"
      wide
      bodyOf={(form) => ({
        kind: key,
        choice: choiceOf(
          form,
          offers,
          review.tests.map((test) => test.id),
        ),
      })}
      onMade={(made) => {
        void refresh(client, "findings", review.id);
        onDrawn(made.findings.filter((one) => one.kind === key && one.drawn !== null).at(-1));
        onClose();
      }}
      onClose={onClose}
    >
      <Field label="Kind">
        <select name="kind" value={key} onChange={(event) => setKey(event.target.value)}>
          {offered.map((kind) => (
            <option key={kind.key} value={kind.key}>
              {kind.words}
            </option>
          ))}
        </select>
      </Field>
      {offers.has("role") && (
        <Field label="By">
          <select name="role" defaultValue="">
            <option value="">as proposed</option>
            <option value="averages">averages</option>
            <option value="lows">1 % lows</option>
          </select>
        </Field>
      )}
      {offers.has("baseline") && (
        <Field label="Against">
          <select name="baseline" defaultValue="">
            <option value="">everybody’s baseline</option>
            <ConfigurationOptions review={review} />
          </select>
        </Field>
      )}
      {offers.has("factors") && review.factors.length > 2 && (
        <Choices legend="Factors" name="factors" items={review.factors.map((one) => [one.key, one.name])} />
      )}
      {offers.has("columns") && (
        <fieldset className="mb-3">
          <legend className="mb-1 text-note font-semibold">Steps, in the order of the columns</legend>
          {review.columns.map((column) => (
            <label key={column.id} className="flex items-center gap-2 py-0.5">
              <input type="checkbox" name="columns" value={column.id} />
              <Seal position={column.position} label={column.label} size={16} /> {column.label}
            </label>
          ))}
        </fieldset>
      )}
      {offers.has("basis") && (
        <Field label="Prices">
          <select name="basis" defaultValue="">
            <option value="">the basis that most have</option>
            {price_bases.map((basis) => (
              <option key={basis} value={basis}>
                {basis}
              </option>
            ))}
          </select>
        </Field>
      )}
      {offers.has("differing") && (
        <label className="mb-3 flex items-center gap-2">
          <input type="checkbox" name="differing" /> price only the parts that differ
        </label>
      )}
      {offers.has("idle_off") && (
        <label className="mb-3 flex items-center gap-2">
          <input type="checkbox" name="idle_off" /> take idle baselines off
        </label>
      )}
      {offers.has("without") && (
        <Choices
          legend="Tests"
          name="tests"
          items={review.tests.map((test) => [
            String(test.id),
            [test.name, test.detail].filter(Boolean).join(", "),
          ])}
          checked
        />
      )}
    </CreateDialog>
  );
}

interface ChoicesProps {
  legend: string;
  name: string;
  items: [string, string][];
  checked?: boolean;
}

function Choices({ legend, name, items, checked = false }: ChoicesProps) {
  return (
    <fieldset className="mb-3 max-h-52 overflow-auto">
      <legend className="mb-1 text-note font-semibold">{legend}</legend>
      {items.map(([value, words]) => (
        <label key={value} className="flex items-center gap-2 py-0.5">
          <input type="checkbox" name={name} value={value} defaultChecked={checked} /> {words}
        </label>
      ))}
    </fieldset>
  );
}

/** What was chosen in the form, without what was left as proposed. */
export function choiceOf(
  form: FormData,
  offers: ReadonlySet<string>,
  tests: number[],
): Record<string, unknown> {
  const text = (name: string) => String(form.get(name) ?? "");
  const numbers = (name: string) => form.getAll(name).map(Number);
  const kept = new Set(numbers("tests"));
  const without = tests.filter((test) => !kept.has(test));
  const choice: Record<string, unknown> = {
    role: text("role"),
    basis: text("basis"),
    baseline: text("baseline") && Number(text("baseline")),
    factors: form.getAll("factors").map(String),
    columns: numbers("columns"),
    without: offers.has("without") ? without : [],
    differing: form.has("differing"),
    idle_off: form.has("idle_off"),
  };
  return Object.fromEntries(
    Object.entries(choice).filter(
      ([key, value]) =>
        offers.has(key) && value !== "" && value !== false && !(Array.isArray(value) && !value.length),
    ),
  );
}
