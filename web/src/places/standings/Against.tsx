import type { Shapes } from "../../api/client";
import { dayWords } from "./day";

interface Props {
  standing: Shapes["StandingShape"];
  choose: (changes: Record<string, string>) => void;
}

/** Chooses the result that all others are held against. */
export function Against({ standing, choose }: Props) {
  return (
    <label className="flex items-center gap-2">
      against
      <select
        value={standing.reference}
        onChange={(event) => choose({ against: event.target.value })}
        className="max-w-56 border border-ink bg-sheet px-2 py-1"
      >
        {!standing.rows.some((row) => row.id === standing.reference) && (
          <option value={standing.reference}>the one chosen, on another page</option>
        )}
        {standing.rows.map((row) => (
          <option key={row.id} value={row.id}>
            {titleOf(row)}, {dayWords(row.last_at)}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A result as it is called: its configuration, with its machine where that does not say it. */
export function titleOf(row: Pick<Shapes["StandingRow"], "label" | "system" | "revision">): string {
  const named = row.label.toLowerCase().includes(row.system.toLowerCase());
  const revision = row.revision > 1 ? `, revision ${row.revision}` : "";
  return `${named ? "" : `${row.system}, `}${row.label}${revision}`;
}
