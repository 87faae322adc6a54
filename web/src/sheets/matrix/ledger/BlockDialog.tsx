import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { MatrixShape, ReviewShape } from "../../../api/client";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { Seal } from "../../../marks/Seal";
import { count } from "../../../marks/words";
import { columnOf, testOf } from "../../../api/lookup";
import type { CellPlace } from "../place";
import { look, useStore, type Looked, type TypedCell } from "./useLedger";
import { landingWords, readingWords } from "./words";
import { useMatrix, useReview } from "../../../api/review";
import { usualHalfWidth, useVocabulary } from "../../../api/vocabulary";

interface Props {
  at: CellPlace;
  text: string;
  onClose: () => void;
}

/** A block from a spreadsheet: where each value lands, before anything is stored. */
export function BlockDialog({ at, text, onClose }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const store = useStore(review);
  const { reading_methods: methods } = useVocabulary();
  const [method, setMethod] = useState("");
  const [problem, setProblem] = useState("");
  const block = cellsOf(review, matrix, at, text);
  const cells: TypedCell[] = block.cells.map((cell) =>
    method && !knows(matrix, cell)
      ? { ...cell, method, half_width: halfWidth(usualHalfWidth(methods, method, unitOf(matrix, cell))) }
      : cell,
  );
  const looked = useQuery({
    queryKey: ["typed-block", review.id, cells],
    queryFn: () => look(review.id, cells),
    enabled: cells.length > 0,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  const found = looked.data ?? [];
  const wrong = found.filter((one) => one.error);
  const asks = cells.some((cell) => !cell.method && !knows(matrix, cell));
  const warnings = found.flatMap((one) => one.landings.flatMap((landing) => landing.warnings));
  const send = async () => {
    try {
      await store(cells);
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} title="Where the block lands" wide>
      <p className="mb-2 text-note text-quiet">
        {count(cells.length, "value")} from the chosen cell to the right and down.
        {block.beyond > 0 &&
          ` ${count(block.beyond, "value")} would lie outside the matrix and are left out.`}
      </p>
      {(asks || method) && (
        <Field label="How were these readings taken, where a row does not say yet?">
          <select value={method} onChange={(event) => setMethod(event.target.value)}>
            <option value="">choose one</option>
            {methods
              .filter((one) => one.name !== "captured")
              .map((one) => (
                <option key={one.name}>{one.name}</option>
              ))}
          </select>
        </Field>
      )}
      <div className="max-h-[45vh] overflow-auto border border-line">
        <table className="w-full text-note">
          <thead>
            <tr className="border-b border-line text-left text-quiet">
              <th className="p-1.5 font-normal">typed</th>
              <th className="p-1.5 font-normal">read as</th>
              <th className="p-1.5 font-normal">lands in</th>
            </tr>
          </thead>
          <tbody>
            {cells.map((cell, index) => (
              <Row key={index} cell={cell} looked={found[index]} />
            ))}
          </tbody>
        </table>
      </div>
      {warnings.length > 0 && (
        <p role="alert" className="mt-2 text-note">
          <strong>Look again:</strong> {count(warnings.length, "value")} seem unlikely; they are marked above.
        </p>
      )}
      {(problem || looked.error) && (
        <p role="alert" className="mt-2 text-note text-mark">
          {problem || looked.error?.message}
        </p>
      )}
      <div className="mt-3 flex items-center gap-3">
        <Button
          kind="strong"
          disabled={!found.length || wrong.length > 0 || asks || looked.isFetching}
          onClick={() => void send()}
        >
          Store{" "}
          {count(
            found.reduce((sum, one) => sum + one.landings.length, 0),
            "reading",
          )}
        </Button>
        <Button onClick={onClose}>Not now</Button>
        {wrong.length > 0 && (
          <span className="text-note text-mark">
            {count(wrong.length, "cell")} cannot be read; nothing is stored until all can.
          </span>
        )}
      </div>
    </Dialog>
  );
}

function Row({ cell, looked }: { cell: TypedCell; looked?: Looked }) {
  const { outcomes } = useVocabulary();
  const review = useReview();
  const column = columnOf(review, cell.column);
  const test = testOf(review, cell.test);
  return (
    <tr className="border-b border-line align-top">
      <td className="p-1.5">{cell.text}</td>
      <td className="p-1.5">
        {looked?.error ? (
          <span className="text-mark">{looked.error}</span>
        ) : (
          looked?.landings.map((landing, index) => (
            <div key={index}>
              {readingWords(landing, looked.unit, outcomes)}
              {landing.warnings.length > 0 && (
                <span className="text-mark"> {landing.warnings.join(" ")}</span>
              )}
            </div>
          ))
        )}
      </td>
      <td className="p-1.5">
        <span className="flex items-center gap-1.5">
          {column && <Seal position={column.position} label={column.label} size={15} />}
          {column?.label}, {test?.name} <span className="text-quiet">{test?.detail}</span>
        </span>
        <span className="text-quiet">{looked?.landings.map(landingWords).join(", ")}</span>
      </td>
    </tr>
  );
}

function unitOf(matrix: MatrixShape, cell: TypedCell): string {
  return matrix.rows.find((row) => row.test === cell.test && row.metric === cell.metric)?.unit ?? "";
}

/** The usual half-width as a number; null where whoever reads says it, cell by cell. */
function halfWidth(usual: string): number | null {
  return usual === "" ? null : Number(usual);
}

function knows(matrix: MatrixShape, cell: TypedCell): boolean {
  return Boolean(matrix.rows.find((row) => row.test === cell.test && row.metric === cell.metric)?.reading);
}

/** The cells that a block covers from a first one on; empty ones are passed over. */
export function cellsOf(
  review: ReviewShape,
  matrix: MatrixShape,
  at: CellPlace,
  text: string,
): { cells: TypedCell[]; beyond: number } {
  const firstRow = matrix.rows.findIndex((row) => row.test === at.test && row.metric === at.metric);
  const firstColumn = review.columns.findIndex((column) => column.id === at.column);
  const cells: TypedCell[] = [];
  let beyond = 0;
  text
    .replace(/\r/g, "")
    .replace(/\n+$/, "")
    .split("\n")
    .forEach((line, down) => {
      line.split("\t").forEach((value, right) => {
        if (!value.trim()) return;
        const row = matrix.rows[firstRow + down];
        const column = review.columns[firstColumn + right];
        if (row && column)
          cells.push({ test: row.test, metric: row.metric, column: column.id, text: value.trim() });
        else beyond += 1;
      });
    });
  return { cells, beyond };
}
