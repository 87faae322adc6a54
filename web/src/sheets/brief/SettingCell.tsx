import { useState } from "react";
import type { ColumnShape, Shapes } from "../../api/client";
import type { BriefAct } from "./useBriefAct";

interface Props {
  column: ColumnShape;
  row: Shapes["DifferenceRow"];
  may: boolean;
  act: BriefAct;
}

/** One value of the difference table; where its configuration can be changed, it is typed over in place. */
export function SettingCell({ column, row, may, act }: Props) {
  const [typing, setTyping] = useState(false);
  const value = row.values[String(column.id)];
  const flagged = row.flagged.includes(column.id);
  const look = `border-l border-line px-2.5 py-1.5 ${flagged ? "font-semibold text-mark" : ""}`;
  const store = async (typed: string, before: string) => {
    setTyping(false);
    if (typed === before) return;
    const table = (text: string) => `\t${column.label}\n${row.setting}\t${text || "-"}`;
    await act(
      "POST",
      "/paste",
      { text: table(typed), store: true },
      {
        said: `${row.label} on ${column.label} is ${typed || "not set"} now.`,
        undo: () => act("POST", "/paste", { text: table(before), store: true }),
      },
    );
  };
  const words = (
    <>
      {value ?? <span className="text-quiet">{row.kind === "observed" ? "not read" : "not set"}</span>}
      {flagged && <span aria-label=", flagged"> ⚑</span>}
    </>
  );
  if (!may) return <td className={look}>{words}</td>;
  if (typing) {
    return (
      <td className={look}>
        <input
          autoFocus
          aria-label={`${row.label} on ${column.label}`}
          defaultValue={value ?? ""}
          className="w-full min-w-16 border border-ink bg-sheet px-1 font-normal text-ink"
          onBlur={(event) => void store(event.target.value.trim(), value ?? "")}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
            if (event.key === "Escape") setTyping(false);
          }}
        />
      </td>
    );
  }
  return (
    <td className={look}>
      <button
        type="button"
        className="text-left underline decoration-line decoration-dotted hover:decoration-ink"
        aria-label={`${row.label} on ${column.label}: ${value ?? "not set"}; change it`}
        onClick={() => setTyping(true)}
      >
        {words}
      </button>
    </td>
  );
}
