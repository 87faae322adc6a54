import type { HandRun } from "../../api/client";
import { useSession } from "../../api/session";
import { useVocabulary } from "../../api/vocabulary";
import { Field } from "../../design/Field";
import type { Draft, Hands } from "./draft";

interface Props {
  run: HandRun;
  draft: Draft;
  onChange: (draft: Draft) => void;
  hands: Hands;
  onHands: (hands: Hands) => void;
}

/** How the pass ended, what came of a failure, and whose hands it was in. */
export function HandEnding({ run: sheet, draft, onChange, hands, onHands }: Props) {
  const { outcomes } = useVocabulary();
  const { display_name } = useSession();
  const failed = draft.outcome !== "completed";
  const set = (change: Partial<Draft>) => onChange({ ...draft, ...change });
  return (
    <section aria-label="How it ended" className="mt-3">
      <Field label="How it ended">
        <select value={draft.outcome} onChange={(event) => set({ outcome: event.target.value })}>
          {Object.entries(outcomes).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <Field label={failed ? "Why" : "Note"}>
        <input value={draft.note} maxLength={300} onChange={(event) => set({ note: event.target.value })} />
      </Field>
      {failed && (
        <div className="grid gap-x-3 sm:grid-cols-2">
          <Field label="What was done about it">
            <input
              value={draft.action}
              maxLength={300}
              placeholder="driver reset, went on"
              onChange={(event) => set({ action: event.target.value })}
            />
          </Field>
          <Field label="What ran instead">
            <input
              value={draft.fallback}
              maxLength={300}
              placeholder="a lower preset, another scene"
              onChange={(event) => set({ fallback: event.target.value })}
            />
          </Field>
        </div>
      )}
      {sheet.first_run_apart && !failed && (
        <label className="mb-3 flex items-center gap-2.5">
          <input
            type="checkbox"
            className="size-6"
            checked={draft.firstRun ?? sheet.first_run}
            onChange={(event) => set({ firstRun: event.target.checked })}
          />
          the first run after a start, compared with its like only
        </label>
      )}
      <details>
        <summary className="text-note text-quiet">
          Run by {hands.ranBy || display_name}
          {hands.helpedBy && ` with ${hands.helpedBy}`}
        </summary>
        <div className="mt-2 grid gap-x-3 sm:grid-cols-2">
          <Field label="Run by" hint="Whoever stands at the machine, where that is not you.">
            <input
              value={hands.ranBy}
              maxLength={120}
              onChange={(event) => onHands({ ...hands, ranBy: event.target.value })}
            />
          </Field>
          <Field label="With" hint="Who helped, or ran it elsewhere.">
            <input
              value={hands.helpedBy}
              maxLength={200}
              onChange={(event) => onHands({ ...hands, helpedBy: event.target.value })}
            />
          </Field>
        </div>
      </details>
    </section>
  );
}
