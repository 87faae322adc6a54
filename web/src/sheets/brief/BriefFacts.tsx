import { useState } from "react";
import type { ReviewShape } from "../../api/client";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { When } from "../../design/When";
import { History } from "../../shell/History";
import { EditForm } from "../EditForm";
import { Expectations } from "./Expectations";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { useVocabulary } from "../../api/vocabulary";
import { fixed } from "../../marks/words";

/** Quantities that are compared by their difference, with what their margins are given in. */
const MARGINS = [
  { key: "temperature", label: "temperature", unit: "°C" },
  { key: "noise", label: "noise", unit: "dB(A)" },
  { key: "share", label: "shares", unit: "points" },
  { key: "count", label: "counts", unit: "" },
] as const;

/** Units for which a brief can have a limit from above, beside degrees and seconds. */
const TARGETS = ["W", "dB(A)", "GB"] as const;

interface Props {
  editing: boolean;
  onEdit: (on: boolean) => void;
}

/** The brief in sentences, and its form. */
export function BriefFacts({ editing, onEdit }: Props) {
  const { low_definitions: lows } = useVocabulary();
  const may = useMay()("edit_review");
  const review = useReview();
  if (editing) return <EditBrief onClose={() => onEdit(false)} />;
  const targets = [
    review.target_fps !== null && `${review.target_fps} frames per second`,
    review.target_c !== null && `at most ${review.target_c} °C`,
    review.target_s !== null && `at most ${review.target_s} s`,
    ...Object.entries(review.targets).map(([unit, limit]) => `at most ${limit} ${unit}`),
    review.target_no_failure && "no failure",
  ].filter(Boolean);
  return (
    <section aria-label="The brief">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="font-serif text-lead font-semibold">The brief</h2>
        <History kind="review" id={review.id} name="the brief" />
      </div>
      <Expectation />
      <Expectations />
      <Said title="To decide" words={review.decision} />
      <Said title="For" words={review.audience} />
      <Said title="Limits" words={review.constraints} />
      <Said title="Interests" words={[review.disclosure, ...review.origins].filter(Boolean).join(" · ")} />
      <Said title="Skill and tools" words={review.skill_note} />
      <Said
        title="Practical margin"
        words={`${fixed(100 * review.margin, 1)} %: a smaller difference is called level${
          review.expected_effect !== null
            ? `; ${fixed(100 * review.expected_effect, 1)} % is what would matter`
            : ""
        }`}
      />
      <Said
        title="Margins of differences"
        words={MARGINS.map(({ key, label, unit }) => `${label} ${review.margins[key]} ${unit}`.trim()).join(
          ", ",
        )}
      />
      <Said title="Low" words={`1 % and 0.1 % lows are the ${lows[review.low_definition] ?? ""}`} />
      <Said title="Targets" words={targets.join(", ")} />
      <Said
        title="Passes"
        words={`${review.passes_per_test} per test${review.returns_to_baseline ? ", the baseline again at the end" : ""}`}
      />
      <Said title="Editor" words={review.editor} />
      {may && <Button onClick={() => onEdit(true)}>Edit the brief</Button>}
    </section>
  );
}

/** The expectation is worth what it was before the first pass; a later one says so. */
function Expectation() {
  const review = useReview();
  const late =
    review.expectation_at !== null &&
    review.first_pass_at !== null &&
    review.expectation_at > review.first_pass_at;
  return (
    <div className="mb-3">
      <h3 className="text-note font-semibold">Expected</h3>
      <p className="font-serif">{review.expectation || "Not said."}</p>
      {review.expectation_at && (
        <p className={`text-small ${late ? "text-mark" : "text-quiet"}`}>
          {late ? "⚑ written after the first pass, " : "written before the first pass, "}
          <When at={review.expectation_at} />
          {review.times_doubtful &&
            review.first_pass_at !== null &&
            "; a bench's clock was off, so this goes by the server's"}
        </p>
      )}
    </div>
  );
}

function Said({ title, words }: { title: string; words: string }) {
  if (!words) return null;
  return (
    <div className="mb-3">
      <h3 className="text-note font-semibold">{title}</h3>
      <p className="font-serif">{words}</p>
    </div>
  );
}

function EditBrief({ onClose }: { onClose: () => void }) {
  const { low_definitions: lows } = useVocabulary();
  const review = useReview();
  const [began] = useState(review);
  return (
    <EditForm began={began} label="Edit the brief" changesOf={briefOf} onClose={onClose}>
      <Field label="Question">
        <textarea name="question" rows={2} required maxLength={300} defaultValue={began.question} />
      </Field>
      <Field label="Expected before the first pass">
        <textarea name="expectation" rows={2} defaultValue={began.expectation} />
      </Field>
      <Field label="To decide">
        <input name="decision" maxLength={300} defaultValue={began.decision} />
      </Field>
      <Field label="For">
        <input name="audience" maxLength={300} defaultValue={began.audience} />
      </Field>
      <Field label="Limits" hint="Budget, case, parts at hand.">
        <textarea name="constraints" rows={2} maxLength={400} defaultValue={began.constraints} />
      </Field>
      <Field label="Interests" hint="Origin of machines and parts is added by itself.">
        <input name="disclosure" maxLength={400} defaultValue={began.disclosure} />
      </Field>
      <Field label="Skill and tools" hint="What we cannot measure or do.">
        <input name="skill_note" maxLength={400} defaultValue={began.skill_note} />
      </Field>
      <Field label="Held constant">
        <textarea name="constant" rows={2} maxLength={400} defaultValue={began.constant} />
      </Field>
      <div className="grid grid-cols-2 gap-x-3">
        <Field label="Practical margin in %">
          <input
            name="margin"
            type="number"
            min="0.1"
            max="100"
            step="0.1"
            required
            defaultValue={(100 * began.margin).toFixed(1)}
          />
        </Field>
        {MARGINS.map(({ key, label, unit }) => (
          <Field key={key} label={`Margin of ${label}${unit && ` in ${unit}`}`}>
            <input
              name={`margin_${key}`}
              type="number"
              min="0.001"
              step="any"
              required
              defaultValue={began.margins[key]}
            />
          </Field>
        ))}
        <Field label="Effect that matters in %">
          <input
            name="expected_effect"
            type="number"
            min="0.1"
            step="0.1"
            defaultValue={began.expected_effect === null ? "" : (100 * began.expected_effect).toFixed(1)}
          />
        </Field>
        <Field label="Passes per test">
          <input
            name="passes_per_test"
            type="number"
            min="1"
            max="50"
            required
            defaultValue={began.passes_per_test}
          />
        </Field>
        <Field label="Target in fps">
          <input
            name="target_fps"
            type="number"
            min="1"
            step="any"
            defaultValue={began.target_fps ?? ""}
            readOnly={began.first_pass_at !== null}
          />
        </Field>
        <Field label="At most, in °C">
          <input name="target_c" type="number" step="any" defaultValue={began.target_c ?? ""} />
        </Field>
        <Field label="At most, in s">
          <input name="target_s" type="number" min="0" step="any" defaultValue={began.target_s ?? ""} />
        </Field>
        {TARGETS.map((unit) => (
          <Field key={unit} label={`At most, in ${unit}`}>
            <input
              name={`target_${unit}`}
              type="number"
              step="any"
              defaultValue={began.targets[unit] ?? ""}
            />
          </Field>
        ))}
      </div>
      <Field label="1 % and 0.1 % low" hint="One definition for all figures of the review.">
        <select name="low_definition" defaultValue={began.low_definition}>
          {Object.entries(lows).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <label className="mb-2 flex items-center gap-2 text-note">
        <input type="checkbox" name="target_no_failure" defaultChecked={began.target_no_failure} />
        No pass may fail
      </label>
      <label className="mb-2 flex items-center gap-2 text-note">
        <input type="checkbox" name="single" defaultChecked={began.single} />
        One configuration alone, judged by its targets and held against no other
      </label>
      <label className="mb-2 flex items-center gap-2 text-note">
        <input type="checkbox" name="returns_to_baseline" defaultChecked={began.returns_to_baseline} />
        Measure the baseline again at the end
      </label>
      <label className="mb-3 flex items-center gap-2 text-note">
        <input type="checkbox" name="asks_price" defaultChecked={began.asks_price} />
        The question asks what it costs
      </label>
    </EditForm>
  );
}

function briefOf(form: FormData): Partial<ReviewShape> {
  const text = (name: string) => String(form.get(name) ?? "");
  const number = (name: string) => (text(name) ? Number(text(name)) : null);
  const effect = number("expected_effect");
  return {
    question: text("question"),
    expectation: text("expectation"),
    decision: text("decision"),
    audience: text("audience"),
    constraints: text("constraints"),
    disclosure: text("disclosure"),
    skill_note: text("skill_note"),
    constant: text("constant"),
    margin: Number((Number(text("margin")) / 100).toFixed(5)),
    margins: Object.fromEntries(MARGINS.map(({ key }) => [key, Number(text(`margin_${key}`))])),
    expected_effect: effect === null ? null : Number((effect / 100).toFixed(5)),
    passes_per_test: Number(text("passes_per_test")),
    target_fps: number("target_fps"),
    target_c: number("target_c"),
    target_s: number("target_s"),
    targets: Object.fromEntries(
      TARGETS.flatMap((unit): [string, number][] => {
        const limit = number(`target_${unit}`);
        return limit === null ? [] : [[unit, limit]];
      }),
    ),
    target_no_failure: form.has("target_no_failure"),
    single: form.has("single"),
    low_definition: text("low_definition") as ReviewShape["low_definition"],
    returns_to_baseline: form.has("returns_to_baseline"),
    asks_price: form.has("asks_price"),
  };
}
