import { useState } from "react";
import { act } from "../../../api/acts";
import type { ReviewShape, Shapes } from "../../../api/client";
import { Button } from "../../../design/Button";
import { useAct } from "../../../design/useAct";
import { Shape } from "../../../marks/Shape";
import { bytes, figure } from "../../../marks/words";

type Item = Shapes["ImportItem"];

export interface Choice {
  test: number | null;
  column: number | null;
  columns: Shapes["ImportColumn"][];
}

interface Props {
  review: ReviewShape;
  item: Item;
  choice: Choice;
  fixed: boolean;
  open: boolean;
  several: boolean;
  onChange: (next: Partial<Choice>) => void;
  onForAll: () => void;
}

const ROLES: Record<string, string> = {
  time: "the time",
  frames: "frame times",
  sensor: "a sensor",
  ignore: "left out",
};
const DRESS = "border border-line bg-sheet px-1 py-0.5 text-note";

/** One file: its cell, and what its columns are taken for. */
export function FileItem({ review, item, choice, fixed, open, several, onChange, onForAll }: Props) {
  return (
    <li className="border-b border-line py-2 text-note">
      <div className="flex flex-wrap items-center gap-2">
        <strong className="max-w-64 truncate" title={item.name}>
          {item.name}
        </strong>
        <span className="text-quiet">{bytes(item.size)}</span>
        {item.state === "stored" && <span className="text-better">stored</span>}
        {item.problem ? (
          <span className="text-mark">{item.problem}</span>
        ) : (
          <span className="ml-auto flex gap-2">
            <select
              aria-label={`Test of ${item.name}`}
              className={`${DRESS} max-w-52`}
              disabled={fixed}
              value={choice.test ?? ""}
              onChange={(event) => onChange({ test: Number(event.target.value) || null })}
            >
              <option value="">no test: left out</option>
              {review.tests.map((test) => (
                <option key={test.id} value={test.id}>
                  {test.name}, {test.detail}
                </option>
              ))}
            </select>
            <select
              aria-label={`Configuration of ${item.name}`}
              className={DRESS}
              disabled={fixed}
              value={choice.column ?? ""}
              onChange={(event) => onChange({ column: Number(event.target.value) || null })}
            >
              <option value="">no configuration: left out</option>
              {review.columns.map((column) => (
                <option key={column.id} value={column.id}>
                  {column.label}
                </option>
              ))}
            </select>
          </span>
        )}
      </div>
      {item.remarks.length > 0 && <p className="text-quiet">{item.remarks.join("; ")}</p>}
      {!item.problem && choice.columns.length > 0 && (
        <details open={open} className="mt-1">
          <summary className="text-quiet">{summary(choice.columns)}</summary>
          <Columns choice={choice} fixed={fixed} name={item.name} onChange={onChange} />
          {!fixed && <Keep choice={choice} several={several} onForAll={onForAll} />}
        </details>
      )}
    </li>
  );
}

function summary(columns: Choice["columns"]): string {
  const of = (role: string) => columns.filter((column) => column.role === role);
  const named = (role: string, none: string) => of(role)[0]?.column ?? none;
  const sensors = of("sensor").length;
  return `time: ${named("time", "none")} · frames: ${named("frames", "none")} · ${sensors} ${sensors === 1 ? "sensor" : "sensors"}`;
}

function Columns({
  choice,
  fixed,
  name,
  onChange,
}: {
  choice: Choice;
  fixed: boolean;
  name: string;
  onChange: (next: Partial<Choice>) => void;
}) {
  const set = (at: number, next: Partial<Choice["columns"][number]>) =>
    onChange({
      columns: choice.columns.map((one, i) => {
        if (i === at) return { ...one, ...next };
        // There is one clock and one column of frames.
        const single = next.role === "time" || next.role === "frames";
        return single && one.role === next.role ? { ...one, role: "sensor" } : one;
      }),
    });
  return (
    <table className="mt-1 w-full">
      <tbody>
        {choice.columns.map((column, at) => (
          <tr key={column.column} className="border-t border-line align-middle">
            <td className="py-1 pr-2">
              {column.column}
              <div className="text-small text-quiet">{column.why}</div>
            </td>
            <td className="pr-2">
              <Shape points={column.picture} />
            </td>
            <td className="pr-2 text-right text-small whitespace-nowrap text-quiet">
              {column.low !== null &&
                column.high !== null &&
                `${figure(column.low)} to ${figure(column.high)}`}
            </td>
            <td className="pr-1">
              <select
                aria-label={`${name}: what ${column.column} is`}
                className={DRESS}
                disabled={fixed}
                value={column.role}
                onChange={(event) => set(at, { role: event.target.value })}
              >
                {Object.entries(ROLES).map(([role, words]) => (
                  <option key={role} value={role}>
                    {words}
                  </option>
                ))}
              </select>
            </td>
            <td className="pr-1">
              <input
                aria-label={`${name}: name of ${column.column}`}
                className={`${DRESS} w-28`}
                disabled={fixed || column.role !== "sensor"}
                value={column.name}
                onChange={(event) => set(at, { name: event.target.value })}
              />
            </td>
            <td>
              <input
                aria-label={`${name}: unit of ${column.column}`}
                className={`${DRESS} w-14`}
                disabled={fixed || column.role === "ignore"}
                value={column.unit}
                placeholder="unit"
                onChange={(event) => set(at, { unit: event.target.value })}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Keep what was chosen, for the other files here and for the next time. */
function Keep({ choice, several, onForAll }: { choice: Choice; several: boolean; onForAll: () => void }) {
  const run = useAct();
  const [name, setName] = useState("");
  const keep = () =>
    void run(
      () =>
        act("POST", "/api/column-maps", {
          name,
          columns: choice.columns.map(({ column, role, name: called, unit }) => ({
            column,
            role,
            name: called,
            unit,
          })),
        }),
      {
        said: `Kept as ${name}; the next file with these columns is read like this.`,
        stale: ["column-maps"],
      },
    );
  return (
    <div className="mt-1 flex flex-wrap items-center gap-3">
      {several && (
        <Button kind="link" onClick={onForAll}>
          the same for all files with these columns
        </Button>
      )}
      <label className="flex items-center gap-1.5">
        keep this column map as
        <input
          className={`${DRESS} w-40`}
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <Button disabled={!name.trim()} onClick={keep}>
        Keep
      </Button>
    </div>
  );
}
