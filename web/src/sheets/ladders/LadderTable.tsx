import type { Shapes } from "../../api/client";
import { useReview } from "../../api/review";
import { Seal } from "../../marks/Seal";

type Ladder = Shapes["LadderShape"];

/** What came of a rung, by sign and word; nothing for one that was not tried. */
const SIGNS: Record<string, string> = { met: "✓", "average only": "≈", missed: "✗", "cannot tell": "?" };

interface Props {
  ladders: Ladder[];
  /** What stands under the name of a ladder. */
  acts?: (ladder: Ladder) => React.ReactNode;
}

/** For each ladder and configuration, the most demanding settings that still meet the targets. */
export function LadderTable({ ladders, acts }: Props) {
  const review = useReview();
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Recommended settings">
      <table className="w-full min-w-[560px] border-collapse bg-sheet text-note">
        <thead>
          <tr className="border border-line text-left">
            <th scope="col" className="px-2.5 py-1.5">
              Ladder
            </th>
            {review.columns.map((column) => (
              <th
                scope="col"
                key={column.id}
                className="border-l border-line px-2.5 py-1.5 whitespace-nowrap"
              >
                <Seal
                  position={column.position}
                  label={column.label}
                  baseline={column.is_baseline}
                  size={17}
                />{" "}
                {column.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ladders.map((ladder) => (
            <tr key={ladder.id} className="border border-line align-top">
              <th scope="row" className="px-2.5 py-1.5 text-left font-normal">
                <strong>{ladder.name}</strong>
                <span className="block text-small text-quiet">{ladder.names.join(" › ")}</span>
                {acts?.(ladder)}
              </th>
              {review.columns.map((column) => (
                <td key={column.id} className="border-l border-line px-2.5 py-1.5">
                  <Cell cell={ladder.cells[String(column.id)]} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Cell({ cell }: { cell?: Shapes["LadderCell"] }) {
  if (!cell) return null;
  return (
    <>
      <strong className={cell.word === "found" ? "" : "font-normal"}>
        {cell.word === "found" ? cell.best_name : cell.word === "none" ? "none" : "open"}
      </strong>
      <ul className="my-0.5 flex flex-wrap gap-x-2 text-small text-quiet" aria-label="Rungs">
        {cell.rungs
          .filter((rung) => rung.word)
          .map((rung) => (
            <li key={rung.test} title={rung.said.join("; ")}>
              <span aria-hidden="true">{SIGNS[rung.word]}</span> {rung.name}
              <span className="sr-only">: {rung.word}</span>
            </li>
          ))}
      </ul>
      <span className="block text-small text-quiet">
        {cell.words}
        {cell.going && "; going down by itself"}
      </span>
    </>
  );
}
