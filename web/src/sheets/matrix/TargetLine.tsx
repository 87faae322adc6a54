import type { RowShape } from "../../api/client";

interface Props {
  row: RowShape | undefined;
  column: number;
}

const SIGNS: Record<string, string> = { met: "✓", "average only": "◐", missed: "✗", "cannot tell": "?" };
const INKS: Record<string, string> = {
  met: "text-better",
  "average only": "text-undecided",
  missed: "text-worse",
  "cannot tell": "text-quiet",
};

/** What came of the targets of a cell: by sign and words, also where nobody can tell. */
export function TargetLine({ row, column }: Props) {
  const targets = row?.targets[String(column)] ?? [];
  if (!targets.length) return null;
  return (
    <ul className="text-small">
      {targets.map((one) => (
        <li key={one.words} className={INKS[one.code]}>
          <span aria-hidden="true" className="inline-block w-3.5 font-semibold">
            {SIGNS[one.code]}
          </span>
          {one.words}
        </li>
      ))}
    </ul>
  );
}
