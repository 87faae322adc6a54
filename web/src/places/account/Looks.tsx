import { usePreferences, type Preferences } from "../../api/preferences";
import { dress } from "../../design/scheme";
import { useNotices } from "../../design/Notices";

const SCHEMES = [
  ["system", "as this machine has it"],
  ["light", "light"],
  ["dark", "dark"],
] as const;

const DENSITIES = [
  ["roomy", "roomy"],
  ["close", "close, for more on a page"],
] as const;

/** How pages are drawn, on every machine where one signs in. */
export function Looks() {
  const { preferences, set } = usePreferences();
  const { warn } = useNotices();
  const choose = (changes: Partial<Preferences>) =>
    set(changes).then(dress, (error: Error) => warn(error.message));
  return (
    <section aria-label="How pages look" className="mt-6">
      <h2 className="mb-2 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">How pages look</h2>
      <div className="flex flex-wrap gap-8 text-note">
        <Choice
          legend="Colours"
          name="scheme"
          choices={SCHEMES}
          value={preferences?.scheme}
          onChoose={(scheme) => void choose({ scheme })}
        />
        <Choice
          legend="Rows"
          name="density"
          choices={DENSITIES}
          value={preferences?.density}
          onChoose={(density) => void choose({ density })}
        />
      </div>
    </section>
  );
}

interface ChoiceProps {
  legend: string;
  name: string;
  choices: readonly (readonly [string, string])[];
  value: string | undefined;
  onChoose: (value: string) => void;
}

function Choice({ legend, name, choices, value, onChoose }: ChoiceProps) {
  return (
    <fieldset disabled={value === undefined}>
      <legend className="mb-1 font-semibold">{legend}</legend>
      {choices.map(([key, words]) => (
        <label key={key} className="flex items-baseline gap-2 py-0.5">
          <input type="radio" name={name} checked={value === key} onChange={() => onChoose(key)} />
          {words}
        </label>
      ))}
    </fieldset>
  );
}
