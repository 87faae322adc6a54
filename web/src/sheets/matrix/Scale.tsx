import type { CellDetail } from "../../api/client";
import { PassScale } from "../../marks/PassScale";
import { columnOf } from "../../api/lookup";
import type { CellPlace } from "./place";
import { useMatrix, useReview } from "../../api/review";

interface Props {
  cells: CellPlace[];
  details: (CellDetail | undefined)[];
  chosen: string[];
  onChoose: (cell: CellPlace, pass: string) => void;
}

/** The passes of the chosen cells on one scale, by the metric of the first. */
export function Scale({ cells, details, chosen, onChoose }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const first = cells[0];
  const row = matrix.rows.find((one) => one.test === first?.test && one.metric === first?.metric);
  if (!first || !row) return null;
  const metric = row.metric.startsWith("low_") ? `${row.metric}_${matrix.low_definition}` : row.metric;
  const lanes = cells.flatMap((cell, at) => {
    const column = columnOf(review, cell.column);
    const own = matrix.rows.find((one) => one.test === cell.test && one.metric === row.metric);
    const shape = own?.cells[String(cell.column)];
    if (!column) return [];
    const passes = (details[at]?.passes ?? []).flatMap((pass) => {
      const found = pass.figures.find((one) => one.metric === metric);
      if (!found || (!pass.kept && !pass.set_aside)) return [];
      return [{ id: pass.id, number: pass.number, value: found.value, aside: pass.set_aside }];
    });
    return [
      {
        position: column.position,
        label: column.label,
        passes,
        centre: shape?.centre ?? null,
        low: shape?.low ?? null,
        high: shape?.high ?? null,
        cell,
      },
    ];
  });
  const choose = (id: string) => {
    const lane = lanes.find((one) => one.passes.some((pass) => pass.id === id));
    if (lane) onChoose(lane.cell, id);
  };
  return (
    <figure className="mb-3">
      <figcaption className="text-small text-quiet">
        passes by {row.label}; line: centre, shaded: 95 % interval, hollow: set aside
      </figcaption>
      <PassScale lanes={lanes} unit={row.unit} label={row.label} chosen={chosen} onChoose={choose} />
    </figure>
  );
}
