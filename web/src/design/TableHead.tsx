/** A head of a table: what a column holds; a name for those who hear it where it shows nothing. */
export interface HeadCell {
  label: string;
  right?: boolean;
  wide?: boolean;
  hidden?: boolean;
}

function cellOf(one: string | HeadCell): HeadCell {
  return typeof one === "string" ? { label: one } : one;
}

/** The quiet head that tables of facts share; a column is a label, or more where it stands right or is wide. */
export function TableHead({ columns }: { columns: readonly (string | HeadCell)[] }) {
  return (
    <thead>
      <tr className="align-bottom text-quiet">
        {columns.map((one, at) => {
          const cell = cellOf(one);
          // Words beside numbers that stand right keep away from them.
          const beside = !cell.right && at > 0 && cellOf(columns[at - 1] ?? "").right;
          return (
            <th
              key={cell.label}
              scope="col"
              className={`py-0.5 font-normal not-last:pr-3 ${cell.right ? "text-right" : "text-left"} ${cell.wide ? "w-1/2" : ""} ${beside ? "pl-4" : ""}`}
            >
              {cell.hidden ? <span className="sr-only">{cell.label}</span> : cell.label}
            </th>
          );
        })}
      </tr>
    </thead>
  );
}
