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

const NUMBERS = [
  ["point", "with a point, 94.1"],
  ["comma", "with a comma, 94,1"],
] as const;

const DEGREES = [
  ["C", "°C, differences in K"],
  ["F", "°F"],
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
        <Choice
          legend="Numbers"
          name="numbers"
          choices={NUMBERS}
          value={preferences?.numbers}
          onChoose={(numbers) => void choose({ numbers })}
        />
        <Choice
          legend="Warmth"
          name="degrees"
          choices={DEGREES}
          value={preferences?.degrees}
          onChoose={(degrees) => void choose({ degrees })}
        />
      </div>
      <p className="mt-2 max-w-prose text-note text-quiet">
        What is typed stays in the unit that its field names. Records are the same for everybody and keep the
        point and °C.
      </p>
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
