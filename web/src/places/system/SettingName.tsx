import { useState } from "react";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { DefineSetting } from "./DefineSetting";

type Known = Shapes["KnownSetting"];

interface Props {
  /** The key of the setting, or the words typed so far. */
  value: string;
  settings: Known[];
  onChange: (key: string) => void;
  bold?: boolean;
  list: string;
  /** Whether a setting that nobody knows can be defined here. */
  may?: boolean;
}

/** The setting that words mean: its label, in any case, or its key. */
export function settingNamed(words: string, settings: Known[]): Known | undefined {
  const plain = words.trim().toLowerCase();
  return settings.find((one) => one.label.toLowerCase() === plain || one.key === words.trim());
}

/** A setting by its label, completed from what is known; one that is not known is defined on the spot. */
export function SettingName({ value, settings, onChange, bold, list, may = true }: Props) {
  const [defining, setDefining] = useState(false);
  const known = settingNamed(value, settings);
  return (
    <>
      <input
        aria-label="Setting"
        list={list}
        placeholder="memory speed"
        value={known?.label ?? value}
        onChange={(event) => onChange(settingNamed(event.target.value, settings)?.key ?? event.target.value)}
        className={`w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink ${bold ? "font-semibold" : ""}`}
      />
      {!known && value.trim().length > 1 && may && (
        <Button kind="link" className="text-small" onClick={() => setDefining(true)}>
          define “{value.trim()}”
        </Button>
      )}
      {defining && (
        <DefineSetting
          label={value.trim()}
          onClose={() => setDefining(false)}
          onMade={(made) => {
            setDefining(false);
            onChange(made.key);
          }}
        />
      )}
    </>
  );
}

/** The names that a field of settings is completed from. */
export function SettingNames({ id, settings }: { id: string; settings: Known[] }) {
  return (
    <datalist id={id}>
      {settings.map((one) => (
        <option key={one.key} value={one.label}>
          {[one.group, one.unit].filter(Boolean).join(", ")}
        </option>
      ))}
    </datalist>
  );
}
