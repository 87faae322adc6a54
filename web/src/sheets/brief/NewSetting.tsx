import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ColumnShape } from "../../api/client";
import { settingsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Button } from "../../design/Button";
import { SettingName, settingNamed, SettingNames } from "../../places/system/SettingName";
import { SettingValue } from "../../places/system/SettingRows";
import { ColumnCells } from "./ColumnCells";
import type { BriefAct } from "./useBriefAct";

/** One more setting for all configurations at once: its name, and a value for each; an empty one leaves it as it is. */
export function NewSetting({ act, onDone }: { act: BriefAct; onDone: () => void }) {
  const review = useReview();
  const settings = useQuery(settingsQuery).data ?? [];
  const [key, setKey] = useState("");
  const [values, setValues] = useState<Record<number, string>>({});
  const known = settingNamed(key, settings);
  const given = review.columns.filter((column) => (values[column.id] ?? "").trim());
  const store = async () => {
    if (!key.trim() || !given.length) return;
    const table = (valueOf: (column: ColumnShape) => string) =>
      [
        ["", ...given.map((column) => column.label)],
        [key, ...given.map(valueOf)],
      ]
        .map((line) => line.join("\t"))
        .join("\n");
    const before = (column: ColumnShape) => {
      const value = (column.settings as Record<string, unknown>)[known?.key ?? key];
      return value === undefined || value === null ? "-" : String(value);
    };
    const saved = await act(
      "POST",
      "/paste",
      { text: table((column) => values[column.id] ?? ""), store: true },
      {
        said: `${known?.label ?? key} is set.`,
        undo: () => act("POST", "/paste", { text: table(before), store: true }),
      },
    );
    if (saved) onDone();
  };
  return (
    <tr
      className="border border-line align-top"
      onKeyDown={(event) => {
        if (event.key === "Enter" && (event.target as HTMLElement).closest("input, select")) {
          event.preventDefault();
          void store();
        }
        if (event.key === "Escape") onDone();
      }}
    >
      <th scope="row" className="px-2.5 py-1.5 text-left font-normal">
        <SettingNames id="brief-settings" settings={settings} />
        <SettingName value={key} settings={settings} list="brief-settings" onChange={setKey} />
        {known?.unit && <span className="block text-small text-quiet">in {known.unit}</span>}
        <span className="mt-1 flex gap-3">
          <Button disabled={!key.trim() || !given.length} onClick={() => void store()}>
            Set it
          </Button>
          <Button kind="link" onClick={onDone}>
            Not now
          </Button>
        </span>
      </th>
      <ColumnCells>
        {(column) => (
          <SettingValue
            known={known}
            label={`${known?.label ?? "Value"} on ${column.label}`}
            value={values[column.id] ?? ""}
            onChange={(value) => setValues({ ...values, [column.id]: value })}
          />
        )}
      </ColumnCells>
    </tr>
  );
}
