import type { HandRun } from "../../api/client";
import { usualHalfWidth, useVocabulary } from "../../api/vocabulary";
import { Button } from "../../design/Button";
import { spread } from "../../marks/words";
import { clockedSeconds, clockWords } from "./HandClock";
import type { Draft, Reading } from "./draft";

type Field = HandRun["fields"][number];

interface Props {
  run: HandRun;
  draft: Draft;
  onChange: (draft: Draft) => void;
  wrong: { metric: string; words: string } | null;
}

/** A field for each figure of the test, with how it is read; what the clock has timed is taken over by one press. */
export function HandFields({ run: sheet, draft, onChange, wrong }: Props) {
  const methods = useVocabulary().reading_methods.filter((one) => one.name !== "captured");
  const timed = clockedSeconds(sheet);
  const set = (metric: string, change: Partial<Reading>) =>
    onChange({
      ...draft,
      readings: { ...draft.readings, [metric]: { ...draft.readings[metric], ...change } },
    });
  return (
    <section aria-label="Figures" className="flex flex-col gap-2.5">
      {sheet.fields.map((field) => {
        const typed = draft.readings[field.metric] ?? {};
        const asks = !field.method || typed.method !== undefined;
        const method = typed.method ?? field.method;
        return (
          <div key={field.metric}>
            <div className="flex flex-wrap items-center gap-2">
              <label htmlFor={`figure-${field.metric}`} className="w-44 shrink-0">
                {field.label}
              </label>
              <input
                id={`figure-${field.metric}`}
                value={typed.text ?? ""}
                inputMode="decimal"
                autoComplete="off"
                aria-invalid={wrong?.metric === field.metric}
                aria-describedby={wrong?.metric === field.metric ? "hand-wrong" : undefined}
                onChange={(event) => set(field.metric, { text: event.target.value })}
                className="w-28 border border-ink bg-sheet px-2 py-2 text-lead"
              />
              <span className="text-quiet">{field.unit}</span>
              {field.unit === "s" && timed !== null && (
                <Button
                  className="py-1.5"
                  onClick={() =>
                    set(field.metric, {
                      text: timed.toFixed(2),
                      method: "stopwatch",
                      half: usualHalfWidth(methods, "stopwatch", "s"),
                    })
                  }
                >
                  take {clockWords(timed)} from the clock
                </Button>
              )}
            </div>
            {asks ? (
              typed.text?.trim() && (
                <p className="mt-1 flex flex-wrap items-center gap-2 text-note">
                  <label>
                    read by{" "}
                    <select
                      value={method}
                      onChange={(event) =>
                        set(field.metric, {
                          method: event.target.value,
                          half: usualHalfWidth(methods, event.target.value, field.unit),
                        })
                      }
                      className="border border-ink bg-sheet px-1.5 py-1"
                    >
                      <option value="">say how</option>
                      {methods.map((one) => (
                        <option key={one.name}>{one.name}</option>
                      ))}
                    </select>
                  </label>
                  <label>
                    exact to ±{" "}
                    <input
                      value={typed.half ?? ""}
                      inputMode="decimal"
                      placeholder="?"
                      onChange={(event) => set(field.metric, { half: event.target.value, method })}
                      className="w-14 border border-ink bg-sheet px-1.5 py-1"
                    />{" "}
                    {field.unit}
                  </label>
                </p>
              )
            ) : (
              <MethodWords field={field} onOther={() => set(field.metric, otherwise(field))} />
            )}
            {wrong?.metric === field.metric && (
              <p id="hand-wrong" role="alert" className="mt-1 text-note text-mark">
                {wrong.words}
              </p>
            )}
          </div>
        );
      })}
    </section>
  );
}

function MethodWords({ field, onOther }: { field: Field; onOther: () => void }) {
  const half =
    field.half_width === null
      ? "precision not known"
      : field.half_width
        ? `± ${spread(field.half_width, field.unit, 2)}`
        : "exact as shown";
  return (
    <p className="mt-0.5 text-note text-quiet">
      {field.method}, {half}{" "}
      <Button kind="link" onClick={onOther}>
        otherwise this time
      </Button>
    </p>
  );
}

function otherwise(field: Field): Partial<Reading> {
  return { method: field.method, half: field.half_width === null ? "" : String(field.half_width) };
}
