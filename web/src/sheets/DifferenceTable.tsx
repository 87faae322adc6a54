import { useState } from "react";
import type { ColumnShape, Shapes } from "../api/client";
import { Button } from "../design/Button";
import { Seal } from "../marks/Seal";
import { count } from "../marks/words";

interface Props {
  columns: ColumnShape[];
  differences: Shapes["Differences"];
}

/** Only what differs between the configurations; what is constant is folded into one line. */
export function DifferenceTable({ columns, differences }: Props) {
  const keys = new Set(differences.rows.map((row) => row.key));
  // What comes with a part that differs is counted, not listed; older records name no parents.
  const isWithin = (row: Shapes["DifferenceRow"]) =>
    row.kind !== "observed" &&
    !(differences.caveats ?? []).some((caveat) => caveat.aspect === row.key) &&
    (row.parents ?? []).some((key) => keys.has(key));
  const within = (key: string) =>
    differences.rows.filter((row) => isWithin(row) && row.parents.includes(key));
  const [open, setOpen] = useState<string[]>([]);
  const shown = differences.rows.filter(
    (row) => !isWithin(row) || row.parents.some((key) => open.includes(key)),
  );
  return (
    <div>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[640px] border-collapse bg-sheet text-note">
          <thead>
            <tr className="border border-line text-left">
              <th scope="col" className="px-3 py-2">
                What differs
              </th>
              {columns.map((column) => (
                <th scope="col" key={column.id} className="border-l border-line px-3 py-2 whitespace-nowrap">
                  <Seal
                    position={column.position}
                    label={column.label}
                    baseline={column.is_baseline}
                    size={18}
                  />{" "}
                  {column.label}
                </th>
              ))}
              <th className="border-l border-line" aria-label="Remark" />
            </tr>
          </thead>
          <tbody>
            {shown.map((row) => (
              <Row
                key={row.key}
                row={row}
                columns={columns}
                inner={isWithin(row)}
                within={isWithin(row) ? [] : within(row.key)}
                open={open.includes(row.key)}
                onOpen={() =>
                  setOpen((all) =>
                    all.includes(row.key) ? all.filter((key) => key !== row.key) : [...all, row.key],
                  )
                }
              />
            ))}
          </tbody>
        </table>
      </div>
      {(differences.caveats ?? []).map((caveat) => (
        <p key={caveat.aspect} className="mt-1.5 text-note">
          <strong>{caveat.label}</strong> differs, and that is accepted: {caveat.words}
        </p>
      ))}
      {differences.constant.length > 0 && (
        <p className="mt-1.5 text-note text-quiet">constant over all: {differences.constant.join(" · ")}</p>
      )}
    </div>
  );
}

type Difference = Shapes["DifferenceRow"];

interface RowProps {
  row: Difference;
  columns: ColumnShape[];
  /** Whether it comes with a part that differs. */
  inner: boolean;
  within: Difference[];
  open: boolean;
  onOpen: () => void;
}

function Row({ row, columns, inner, within, open, onOpen }: RowProps) {
  return (
    <tr className="border border-line">
      <th scope="row" className={`px-3 py-2 text-left font-normal ${inner ? "pl-6 text-quiet" : ""}`}>
        {row.label}
        {within.length > 0 && (
          <Button kind="link" className="block text-small" aria-expanded={open} onClick={onOpen}>
            {open ? "without what comes with it" : `and ${count(within.length, "thing")} with it`}
          </Button>
        )}
      </th>
      {columns.map((column) => {
        const flagged = row.flagged.includes(column.id);
        return (
          <td
            key={column.id}
            className={`border-l border-line px-3 py-2 ${flagged ? "font-semibold text-mark" : ""}`}
          >
            {row.values[String(column.id)] ?? "not recorded"}
            {flagged && <span aria-label=", flagged"> ⚑</span>}
          </td>
        );
      })}
      <td className="border-l border-line px-3 py-2 text-quiet">{row.remark}</td>
    </tr>
  );
}
