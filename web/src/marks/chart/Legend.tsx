import { dashOf } from "../overlay";
import { sealInk, sealLetter } from "../Seal";

export interface LegendEntry {
  key: string;
  position: number;
  label: string;
  /** How many of the same configuration lie under it: it sets the dash. */
  layer?: number;
}

/** Whose line is whose: letter, label, and the line as it is drawn. */
export function Legend({ entries }: { entries: LegendEntry[] }) {
  return (
    <ul className="flex flex-wrap gap-x-4 text-note" aria-label="Legend">
      {entries.map((one) => (
        <li key={one.key} className="flex items-center gap-1.5">
          <svg width="22" height="8" viewBox="0 0 22 8" aria-hidden="true">
            <line
              x1="0"
              x2="22"
              y1="4"
              y2="4"
              stroke={sealInk(one.position)}
              strokeWidth="2.4"
              strokeDasharray={dashOf(one.layer ?? 0).join(" ")}
            />
          </svg>
          {sealLetter(one.position)} {one.label}
        </li>
      ))}
    </ul>
  );
}
