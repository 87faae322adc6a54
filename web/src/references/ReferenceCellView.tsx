import type { Shapes } from "../api/client";
import { VersusMark } from "../marks/VersusMark";
import { count, verdictInk, withUnit } from "../marks/words";

interface Props {
  cell: Shapes["ReferenceCell"] | undefined;
  /** Whether changes are shown, or the figures themselves. */
  versus: boolean;
  margin: number | null;
  reach: number;
}

/** What a reference has in a row: its change against the baseline where it may stand beside it, else its figure. */
export function ReferenceCellView({ cell, versus, margin, reach }: Props) {
  if (!cell) return <span className="text-note text-quiet">not measured there</span>;
  const figure = cell.centre === null ? "none" : withUnit(cell.centre, cell.unit);
  if (!versus || !cell.told) {
    return (
      <div className="text-note">
        <strong className="text-[15px] whitespace-nowrap">{figure}</strong>
        <div className="text-small text-quiet">{versus || !cell.n ? apart(cell) : count(cell.n, "pass")}</div>
      </div>
    );
  }
  return (
    <div className="flex max-w-96 items-center justify-between gap-2">
      <div className="min-w-0">
        <strong className="text-[15px] whitespace-nowrap">{cell.told}</strong>
        <div className="text-small">
          <span className={verdictInk(cell.verdict)}>
            {cell.verdict === "no margin" ? "differs by" : cell.verdict}
          </span>
          {cell.interval && <span className="whitespace-nowrap text-quiet"> {cell.interval}</span>}
        </div>
        {cell.place === "with a warning" && (
          <div className="text-small">
            <span aria-hidden="true" className="text-mark">
              ⚑{" "}
            </span>
            {cell.reasons[0]?.words}
          </div>
        )}
      </div>
      {margin !== null && cell.better !== null && (
        <VersusMark
          effect={cell.better}
          low={cell.better_low}
          high={cell.better_high}
          verdict={cell.verdict}
          margin={margin}
          reach={reach}
          width={84}
        />
      )}
    </div>
  );
}

/** Why nothing is held against it. */
function apart(cell: Shapes["ReferenceCell"]): string {
  if (cell.place === "foreign") return "in no verdict";
  if (cell.place === "") return "the baseline has none yet";
  return cell.reasons[0] ? `not beside: ${cell.reasons[0].words}` : "not beside";
}
