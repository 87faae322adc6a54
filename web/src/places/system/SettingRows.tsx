import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "../../api/client";
import { settingsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Bundles } from "./Bundles";
import { SettingName, settingNamed, SettingNames } from "./SettingName";

export interface SettingRow {
  key: string;
  value: string;
}

interface Props {
  rows: SettingRow[];
  onChange: (rows: SettingRow[]) => void;
  /** What the base has: changes stand out against it. */
  base: Record<string, unknown>;
}

const INPUT = "w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink";

/** Settings as rows, by their labels; one that differs from the base is bold. */
export function SettingRows({ rows, onChange, base }: Props) {
  const settings = useQuery(settingsQuery).data ?? [];
  const set = (at: number, change: Partial<SettingRow>) =>
    onChange(rows.map((row, i) => (i === at ? { ...row, ...change } : row)));
  const isChange = (row: SettingRow) => String(base[row.key] ?? "") !== row.value;
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 text-note font-semibold">Settings</legend>
      <SettingNames id="known-settings" settings={settings} />
      <table className="w-full border-collapse text-note">
        <tbody>
          {rows.map((row, at) => {
            const known = settingNamed(row.key, settings);
            const inherited = base[row.key];
            const differs = isChange(row);
            return (
              <tr key={at} className="border-t border-line align-top">
                <td className="w-56 py-0.5 pr-2">
                  <SettingName
                    value={row.key}
                    settings={settings}
                    list="known-settings"
                    bold={differs}
                    onChange={(key) => set(at, { key })}
                  />
                </td>
                <td className="py-0.5 pr-2">
                  <SettingValue
                    known={known}
                    label={known?.label ?? `Value of ${row.key || "the setting"}`}
                    value={row.value}
                    bold={differs}
                    onChange={(value) => set(at, { value })}
                  />
                </td>
                <td className="w-40 py-0.5 text-quiet">
                  {known?.unit}
                  {differs && inherited !== undefined && ` (${String(inherited)})`}
                </td>
                <td className="w-6 py-0.5">
                  <Button
                    kind="bare"
                    aria-label={`Take ${known?.label ?? (row.key || "this setting")} away`}
                    onClick={() => onChange(rows.filter((_, i) => i !== at))}
                  >
                    ×
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <span className="flex flex-wrap gap-x-4">
        <Button kind="link" onClick={() => onChange([...rows, { key: "", value: "" }])}>
          One more setting
        </Button>
        <Bundles
          workload=""
          chosen={Object.fromEntries(
            rows
              .filter((row) => row.key && row.value !== "" && isChange(row))
              .map((row) => [row.key, row.value]),
          )}
          labelOf={(key) => settingNamed(key, settings)?.label ?? key}
          onTake={(taken) =>
            onChange([
              ...rows.filter((row) => row.key && !(row.key in taken)),
              ...Object.entries(taken).map(([key, value]) => ({ key, value: String(value) })),
            ])
          }
        />
      </span>
    </fieldset>
  );
}

interface ValueProps {
  known?: Shapes["KnownSetting"];
  label: string;
  value: string;
  bold?: boolean;
  onChange: (value: string) => void;
}

/** A value of a setting: one of its words, or typed and completed from what the team has used. */
export function SettingValue({ known, label, value, bold, onChange }: ValueProps) {
  const choices = known?.kind === "yes_no" ? ["yes", "no"] : (known?.choices.map(String) ?? []);
  const shown = known?.kind === "yes_no" ? ({ true: "yes", false: "no" }[value] ?? value) : value;
  const look = `${INPUT} ${bold ? "font-semibold" : ""}`;
  if (choices.length > 0) {
    return (
      <select
        aria-label={label}
        value={shown}
        onChange={(event) => onChange(event.target.value)}
        className={look}
      >
        <option value="">choose</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  }
  const list = known?.used.length ? `used-${known.key}` : undefined;
  return (
    <>
      <input
        aria-label={label}
        list={list}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className={look}
      />
      {list && (
        <datalist id={list}>
          {known?.used.map((one) => (
            <option key={String(one)} value={String(one)} />
          ))}
        </datalist>
      )}
    </>
  );
}
