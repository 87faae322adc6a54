/** A head of a table: what a column holds; a name for those who hear it where it shows nothing. */
export interface HeadCell {
  label: string;
  right?: boolean;
  wide?: boolean;
  hidden?: boolean;
}

/** The quiet head that tables of facts share; a column is a label, or more where it stands right or is wide. */
export function TableHead({ columns }: { columns: readonly (string | HeadCell)[] }) {
  return (
    <thead>
      <tr className="align-bottom text-quiet">
        {columns.map((one) => {
          const cell: HeadCell = typeof one === "string" ? { label: one } : one;
          return (
            <th
              key={cell.label}
              scope="col"
              className={`py-0.5 font-normal not-last:pr-3 ${cell.right ? "text-right" : "text-left"} ${cell.wide ? "w-1/2" : ""}`}
            >
              {cell.hidden ? <span className="sr-only">{cell.label}</span> : cell.label}
            </th>
          );
        })}
      </tr>
    </thead>
  );
}
