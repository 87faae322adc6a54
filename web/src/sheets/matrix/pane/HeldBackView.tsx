import type { PassShape, Shapes } from "../../../api/client";
import { Bands } from "../../../marks/Bands";
import { Seal } from "../../../marks/Seal";
import { figure } from "../../../marks/words";
import { laidOut, percent, shareWords } from "../LimitsCellView";
import type { CellPlace } from "../place";
import { columnOf } from "../../../api/lookup";
import type { ChosenPass } from "./chosen";
import { Hypotheses } from "./Hypotheses";
import { useMatrix, useReview } from "../../../api/review";

type LimitsCell = Shapes["LimitsCell"];

interface Props {
  cells: CellPlace[];
  chosen: ChosenPass[];
}

/** What held the chosen cells back, with the evidence; burst against sustained; memory; and rival explanations. */
export function HeldBackView({ cells, chosen }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const first = cells[0];
  const row = matrix.limits.find((one) => one.test === first?.test);
  return (
    <div className="max-w-[860px]">
      {cells.map((cell) => {
        const column = columnOf(review, cell.column);
        const own = matrix.limits.find((one) => one.test === cell.test)?.cells[String(cell.column)];
        if (!column) return null;
        return (
          <section key={`${cell.test}.${cell.column}`} className="mb-4">
            <h3 className="mb-1 flex items-center gap-1.5">
              <Seal
                position={column.position}
                label={column.label}
                baseline={column.id === matrix.baseline}
                size={20}
              />
              <span className="font-serif text-lead">
                {column.label} is <strong>{own?.words ?? "not known: no kept pass has a record"}</strong>
                {own && own.shares[0] && `, ${percent(own.shares[0].share)} of the time`}.
              </span>
            </h3>
            {own && <Evidence cell={own} />}
            {row?.masked[String(cell.column)] && (
              <p className="mt-1 text-note text-mark">⚑ {row.masked[String(cell.column)]?.words}</p>
            )}
            {chosen
              .filter((one) => one.cell.column === cell.column)
              .map(({ pass }) => (
                <OfPass key={pass.id} pass={pass} />
              ))}
          </section>
        );
      })}
      {first && <Hypotheses cell={first} />}
    </div>
  );
}

function Evidence({ cell }: { cell: LimitsCell }) {
  return (
    <>
      <Bands bands={laidOut(cell)} from={0} to={1} label={shareWords(cell)} />
      <table className="mt-1 text-note">
        <tbody>
          {cell.shares.map((one) => (
            <tr key={one.kind}>
              <th scope="row" className="pr-3 text-left font-normal">
                {one.kind}
              </th>
              <td className="pr-3 text-right">{percent(one.share)}</td>
              <td className="text-quiet">{one.evidence}</td>
            </tr>
          ))}
          {cell.also.map((one) => (
            <tr key={`also ${one.kind}`} className="text-quiet">
              <th scope="row" className="pr-3 text-left font-normal">
                as well: {one.kind}
              </th>
              <td className="pr-3 text-right">{percent(one.share)}</td>
              <td>its evidence was there too, another came first</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="mt-1 text-note">
        {cell.sentences.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </>
  );
}

/** What one pass shows beyond its cell: when it was too short, and what no figure was made of. */
function OfPass({ pass }: { pass: PassShape }) {
  const analysis = pass.analysis as { too_short?: boolean; rise_c_per_min?: number | null };
  if (!analysis.too_short) return null;
  return (
    <p className="text-note text-mark">
      ⚑ Pass {pass.number} is too short: it still warmed up by {figure(analysis.rise_c_per_min ?? 0)} °C a
      minute at its end.
    </p>
  );
}
