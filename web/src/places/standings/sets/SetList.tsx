import type { Shapes } from "../../../api/client";
import { count } from "../../../marks/words";

interface Props {
  sets: Shapes["SetListed"][];
  chosen: number | null;
  onChoose: (id: number) => void;
}

/** The team's own sets of tests. */
export function SetList({ sets, chosen, onChoose }: Props) {
  const shown = sets.filter((one) => !one.archived || one.id === chosen);
  if (!shown.length) return null;
  return (
    <>
      <h2 className="mt-4 mb-1 text-note text-quiet">Sets</h2>
      <ul className="border-t border-line" aria-label="Sets of tests">
        {shown.map((one) => (
          <li key={one.id} className="border-b border-line">
            <button
              type="button"
              aria-current={one.id === chosen}
              onClick={() => onChoose(one.id)}
              className={`block w-full px-2 py-1.5 text-left text-note hover:bg-band ${one.id === chosen ? "border-l-3 border-mark bg-band" : ""}`}
            >
              <span className="font-semibold">{one.name}</span>
              <span className="block text-small text-quiet">
                {count(one.tests, "test")} · edition {one.edition}
                {one.archived && " · archived"}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
