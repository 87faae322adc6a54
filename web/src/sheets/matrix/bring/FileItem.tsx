import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { catalogueQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { useAct } from "../../../design/useAct";
import { Shape } from "../../../marks/Shape";
import { bytes, figure } from "../../../marks/words";
import { useReview } from "../../../api/review";
import { ConfigurationOptions } from "../../ConfigurationOptions";

type Item = Shapes["ImportItem"];

export interface Choice {
  test: number | null;
  column: number | null;
  columns: Shapes["ImportColumn"][];
  everyS: number | null;
}

interface Props {
  item: Item;
  choice: Choice;
  fixed: boolean;
  open: boolean;
  several: boolean;
  ticked: boolean;
  onChange: (next: Partial<Choice>) => void;
  onForAll: () => void;
  onTick: () => void;
}

const ROLES: Record<string, string> = {
  time: "the time",
  frames: "frame times",
  stamps: "moments of frames",
  sensor: "a sensor",
  ignore: "left out",
};
const DRESS = "border border-line bg-sheet px-1 py-0.5 text-note";

/** One file: its cell, and what its columns are taken for. */
export function FileItem(props: Props) {
  const { item, choice, fixed, open, several, ticked, onChange, onForAll, onTick } = props;
  return (
    <li className="border-b border-line py-2 text-note">
      <div className="flex flex-wrap items-center gap-2">
        {several && !item.problem && (
          <input
            type="checkbox"
            aria-label={`Choose ${item.name}`}
            checked={ticked}
            disabled={fixed}
            onChange={onTick}
          />
        )}
        <strong className="max-w-64 truncate" title={item.name}>
          {item.name}
        </strong>
        <span className="text-quiet">{bytes(item.size)}</span>
        {item.state === "stored" && <span className="text-better">stored</span>}
        {item.problem ? (
          <span className="text-mark">{item.problem}</span>
        ) : (
          <span className="ml-auto flex gap-2">
            <CellOf of={item.name} cell={choice} fixed={fixed} onChange={onChange} />
          </span>
        )}
      </div>
      {item.refusal && (
        <p role="alert" className="text-mark">
          It cannot be read so: {item.refusal}
        </p>
      )}
      {item.remarks.length > 0 && (
        <ul className="text-quiet">
          {item.remarks.map((remark) => (
            <li key={remark}>{remark}</li>
          ))}
        </ul>
      )}
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

/** The test and the configuration that a file, or several, belong to. */
export function CellOf({
  of,
  cell,
  fixed = false,
  onChange,
}: {
  of: string;
  cell: { test: number | null; column: number | null };
  fixed?: boolean;
  onChange: (next: { test?: number | null; column?: number | null }) => void;
}) {
  const review = useReview();
  return (
    <>
      <select
        aria-label={`Test of ${of}`}
        className={`${DRESS} max-w-52`}
        disabled={fixed}
        value={cell.test ?? ""}
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
        aria-label={`Configuration of ${of}`}
        className={DRESS}
        disabled={fixed}
        value={cell.column ?? ""}
        onChange={(event) => onChange({ column: Number(event.target.value) || null })}
      >
        <option value="">no configuration: left out</option>
        <ConfigurationOptions review={review} />
      </select>
    </>
  );
}

function summary(columns: Choice["columns"]): string {
  const of = (role: string) => columns.filter((column) => column.role === role);
  const named = (...roles: string[]) => roles.flatMap(of)[0]?.column ?? "none";
  const sensors = of("sensor").length;
  return `time: ${named("time", "stamps")} · frames: ${named("frames", "stamps")} · ${sensors} ${sensors === 1 ? "sensor" : "sensors"}`;
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
        return next.role && rivals(next.role, one.role) ? { ...one, role: "sensor" } : one;
      }),
    });
  const has = (...roles: string[]) => choice.columns.some((one) => roles.includes(one.role));
  return (
    <>
      <Table choice={choice} fixed={fixed} name={name} set={set} />
      {!has("time", "frames", "stamps") && (
        <label className="mt-1 flex items-center gap-1.5">
          No column is the time: a row every
          <input
            aria-label={`${name}: seconds from row to row`}
            className={`${DRESS} w-16`}
            inputMode="decimal"
            disabled={fixed}
            defaultValue={choice.everyS ?? ""}
            onChange={(event) => onChange({ everyS: Number(event.target.value.replace(",", ".")) || null })}
          />
          s
        </label>
      )}
    </>
  );
}

function rivals(chosen: string, other: string): boolean {
  const frames = ["frames", "stamps"];
  return chosen === "time" ? other === "time" : frames.includes(chosen) && frames.includes(other);
}

function Table({
  choice,
  fixed,
  name,
  set,
}: {
  choice: Choice;
  fixed: boolean;
  name: string;
  set: (at: number, next: Partial<Choice["columns"][number]>) => void;
}) {
  const sensors = useQuery(catalogueQuery).data?.sensors ?? [];
  const list = useId();
  // Choosing a known sensor brings its unit, where the file named none.
  const call = (at: number, called: string) => {
    const known = sensors.find((sensor) => sensor.key === called);
    set(at, known && !choice.columns[at]?.unit ? { name: called, unit: known.unit } : { name: called });
  };
  return (
    <table className="mt-1 w-full">
      <caption className="sr-only">
        <datalist id={list}>
          {sensors.map((sensor) => (
            <option key={sensor.key} value={sensor.key} />
          ))}
        </datalist>
        The columns of {name}
      </caption>
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
                list={list}
                onChange={(event) => call(at, event.target.value)}
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
          every_s: choice.everyS,
          columns: choice.columns.map(({ column, role, name: called, unit }) => ({
            column,
            role,
            name: called,
            unit,
          })),
        }),
      {
        said: `Kept as ${name}; the next file with these columns is read like this.`,
        made: "column_maps",
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
