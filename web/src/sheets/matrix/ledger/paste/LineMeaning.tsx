import type { ReviewShape } from "../../../../api/client";
import { useReview } from "../../../../api/review";
import { Field } from "../../../../design/Field";
import { Popover } from "../../../../design/Popover";
import { saysOf, saysWords, type PastedLine, type Says } from "./pasted";
import { ConfigurationOptions } from "../../../ConfigurationOptions";

interface Props {
  line: PastedLine;
  name: string;
  metrics: Record<string, string>;
  onSays: (says: Says) => void;
}

/** The head of a pasted row or column: its label, what that is read as, and the way to put it right. */
export function LineMeaning({ line, name, metrics, onSays }: Props) {
  const review = useReview();
  const says = saysOf(line);
  const words = line.unknown ? "not known: say what it is" : saysWords(says, review, metrics);
  return (
    <Popover
      label={`${name}${line.label && `, ${line.label}`}: ${words || "goes on from the cell"}`}
      trigger={
        <button
          type="button"
          className={`block w-full px-1.5 py-1 text-left hover:bg-band ${says.skip ? "line-through" : ""}`}
        >
          {line.label && <span className="block text-small text-quiet">{line.label}</span>}
          <span className={line.unknown ? "font-semibold text-mark" : "font-semibold"}>
            {line.unknown && "⚑ "}
            {words || "goes on"}
          </span>
        </button>
      }
    >
      <Choices says={says} review={review} metrics={metrics} onSays={onSays} name={name} />
    </Popover>
  );
}

interface ChoicesProps {
  says: Says;
  review: ReviewShape;
  metrics: Record<string, string>;
  name: string;
  onSays: (says: Says) => void;
}

function Choices({ says, review, metrics, name, onSays }: ChoicesProps) {
  const set = (change: Partial<Says>) => onSays({ ...says, skip: false, ...change });
  const number = (text: string) => (text === "" ? null : Number(text));
  return (
    <div className="w-72">
      <Field label={`${name} is of the test`}>
        <select value={says.test ?? ""} onChange={(event) => set({ test: number(event.target.value) })}>
          <option value="">it does not tell</option>
          {review.tests.map((test) => (
            <option key={test.id} value={test.id}>
              {[test.name, test.short].filter(Boolean).join(", ")}
            </option>
          ))}
        </select>
      </Field>
      <Field label="on">
        <select
          value={says.configuration ?? ""}
          onChange={(event) => set({ configuration: number(event.target.value) })}
        >
          <option value="">it does not tell</option>
          <ConfigurationOptions review={review} />
        </select>
      </Field>
      <Field label="its metric">
        <select value={says.metric ?? ""} onChange={(event) => set({ metric: event.target.value || null })}>
          <option value="">it does not tell</option>
          {Object.entries(metrics).map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </select>
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="run">
          <input
            inputMode="numeric"
            value={says.run ?? ""}
            onChange={(event) =>
              /^\d{0,3}$/.test(event.target.value) && set({ run: number(event.target.value) })
            }
          />
        </Field>
        <Field label="in unit">
          <input value={says.unit} maxLength={12} onChange={(event) => set({ unit: event.target.value })} />
        </Field>
      </div>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={says.skip}
          onChange={(event) => set({ skip: event.target.checked })}
        />
        leave it out
      </label>
    </div>
  );
}
