import { TableHead } from "../../design/TableHead";
import { Button } from "../../design/Button";

export type Row = Record<string, unknown>;

export interface Column {
  key: string;
  label: string;
  choices?: string[];
  number?: boolean;
  /** Yes or no. */
  yes?: boolean;
  /** Several values, written with commas. */
  list?: boolean;
  wide?: boolean;
}

interface Props {
  title: string;
  columns: Column[];
  rows: Row[];
  onChange: (rows: Row[]) => void;
}

const INPUT = "w-full border border-line bg-sheet px-1.5 py-0.5 focus:border-ink";

/** A list of small records as rows of a form. */
export function RowsField({ title, columns, rows, onChange }: Props) {
  const set = (at: number, key: string, value: unknown) =>
    onChange(rows.map((row, i) => (i === at ? cleaned({ ...row, [key]: value }) : row)));
  const blank = () =>
    Object.fromEntries(
      columns.map((c) => [c.key, c.choices?.[0] ?? (c.yes ? false : c.number ? null : c.list ? [] : "")]),
    );
  return (
    <fieldset className="mb-4 text-note">
      <legend className="mb-1 font-semibold">{title}</legend>
      {rows.length > 0 && (
        <table className="w-full border-collapse">
          <TableHead
            columns={[
              ...columns.map((one) => ({ label: one.label, wide: one.wide })),
              { label: "Remove", hidden: true },
            ]}
          />
          <tbody>
            {rows.map((row, at) => (
              <tr key={at} className="border-t border-line">
                {columns.map((column) => (
                  <td key={column.key} className="py-0.5 pr-1.5">
                    <Cell
                      column={column}
                      label={`${title}, row ${at + 1}: ${column.label}`}
                      value={row[column.key]}
                      onChange={(value) => set(at, column.key, value)}
                    />
                  </td>
                ))}
                <td className="w-6">
                  <Button
                    kind="bare"
                    aria-label={`${title}: remove row ${at + 1}`}
                    onClick={() => onChange(rows.filter((_, i) => i !== at))}
                  >
                    ×
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Button kind="link" onClick={() => onChange([...rows, blank()])}>
        One more
      </Button>
    </fieldset>
  );
}

interface CellProps {
  column: Column;
  label: string;
  value: unknown;
  onChange: (value: unknown) => void;
}

function Cell({ column, label, value, onChange }: CellProps) {
  if (column.choices) {
    return (
      <select
        aria-label={label}
        value={String(value ?? "")}
        onChange={(event) => onChange(event.target.value)}
        className={INPUT}
      >
        {column.choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  }
  if (column.yes) {
    return (
      <input
        type="checkbox"
        aria-label={label}
        checked={value === true}
        onChange={(event) => onChange(event.target.checked)}
      />
    );
  }
  const text = Array.isArray(value) ? value.join(", ") : String(value ?? "");
  return (
    <input
      key={column.list ? undefined : "plain"}
      aria-label={label}
      defaultValue={text}
      inputMode={column.number ? "decimal" : undefined}
      onBlur={(event) => {
        const typed = event.target.value;
        if (column.list) onChange(listOf(typed));
        else if (column.number) onChange(typed ? Number(typed) : null);
        else onChange(typed);
      }}
      className={INPUT}
    />
  );
}

/** Values with commas; what reads as a number is one. */
function listOf(text: string): unknown[] {
  return text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean)
    .map((one) => (Number.isFinite(Number(one)) ? Number(one) : one));
}

/** An empty list of values means that any value will do. */
function cleaned(row: Row): Row {
  return Object.fromEntries(
    Object.entries(row).filter(
      ([key, value]) => !(key === "values" && Array.isArray(value) && !value.length),
    ),
  );
}
