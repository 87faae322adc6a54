import type { CatalogueShape } from "../../api/client";
import { Button } from "../../design/Button";

export interface SettingRow {
  key: string;
  value: string;
}

interface Props {
  rows: SettingRow[];
  onChange: (rows: SettingRow[]) => void;
  catalogue: CatalogueShape;
  /** What the base has: changes stand out against it. */
  base: Record<string, unknown>;
}

const INPUT = "w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink";

/** Settings as rows; one that differs from the base is bold. Keys that the catalogue does not know may be typed. */
export function SettingRows({ rows, onChange, catalogue, base }: Props) {
  const set = (at: number, change: Partial<SettingRow>) =>
    onChange(rows.map((row, i) => (i === at ? { ...row, ...change } : row)));
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 text-note font-semibold">Settings</legend>
      <datalist id="known-settings">
        {catalogue.settings.map((one) => (
          <option key={one.spec.key} value={one.spec.key}>
            {one.spec.label}, {catalogue.groups[one.group]}
          </option>
        ))}
      </datalist>
      <table className="w-full border-collapse text-note">
        <tbody>
          {rows.map((row, at) => {
            const known = catalogue.settings.find((one) => one.spec.key === row.key);
            const inherited = base[row.key];
            const differs = String(inherited ?? "") !== row.value;
            return (
              <tr key={at} className="border-t border-line">
                <td className="w-56 py-0.5 pr-2">
                  <input
                    aria-label="Setting"
                    list="known-settings"
                    value={row.key}
                    onChange={(event) => set(at, { key: event.target.value })}
                    className={`${INPUT} ${differs ? "font-semibold" : ""}`}
                  />
                </td>
                <td className="py-0.5 pr-2">
                  {known && known.spec.choices.length > 0 ? (
                    <select
                      aria-label={known.spec.label}
                      value={row.value}
                      onChange={(event) => set(at, { value: event.target.value })}
                      className={INPUT}
                    >
                      <option value="">choose</option>
                      {known.spec.choices.map((choice) => (
                        <option key={String(choice)}>{String(choice)}</option>
                      ))}
                    </select>
                  ) : (
                    <input
                      aria-label={known ? known.spec.label : `Value of ${row.key || "the setting"}`}
                      value={row.value}
                      onChange={(event) => set(at, { value: event.target.value })}
                      className={`${INPUT} ${differs ? "font-semibold" : ""}`}
                    />
                  )}
                </td>
                <td className="w-40 py-0.5 text-quiet">
                  {known?.spec.unit}
                  {differs && inherited !== undefined && ` (${String(inherited)})`}
                </td>
                <td className="w-6 py-0.5">
                  <Button
                    kind="bare"
                    aria-label={`Take ${row.key || "this setting"} away`}
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
      <Button kind="link" onClick={() => onChange([...rows, { key: "", value: "" }])}>
        One more setting
      </Button>
    </fieldset>
  );
}
