import { useVocabulary } from "../../../../api/vocabulary";
import { landingWords, readingWords } from "../words";
import { LineMeaning } from "./LineMeaning";
import type { Axis, Pasted, PastedValue, Says } from "./pasted";

interface Props {
  pasted: Pasted;
  block: number;
  metrics: Record<string, string>;
  onSays: (axis: Axis, at: number, says: Says) => void;
}

/** One pasted table as it is understood: heads that can be put right, and each value with the pass that it goes to. */
export function PastedTable({ pasted, block, metrics, onSays }: Props) {
  const table = pasted.blocks[block];
  if (!table) return null;
  const values = new Map(
    pasted.values.filter((one) => one.block === block).map((one) => [`${one.row}.${one.column}`, one]),
  );
  return (
    <table className="mb-3 border-collapse text-note">
      {table.title && <caption className="pb-1 text-left font-semibold">{table.title}</caption>}
      <thead>
        <tr>
          <td className="border border-line" />
          {table.columns.map((line, at) => (
            <th key={at} scope="col" className="border border-line bg-paper align-bottom font-normal">
              <LineMeaning
                line={line}
                name={`Column ${at + 1}`}
                metrics={metrics}
                onSays={(says) => onSays("column", at, says)}
              />
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {table.rows.map((line, row) => (
          <tr key={row}>
            <th scope="row" className="border border-line bg-paper align-top font-normal">
              <LineMeaning
                line={line}
                name={`Row ${row + 1}`}
                metrics={metrics}
                onSays={(says) => onSays("row", row, says)}
              />
            </th>
            {table.columns.map((_, column) => (
              <td key={column} className="border border-line px-1.5 py-1 align-top">
                <Value value={values.get(`${row}.${column}`)} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Value({ value }: { value?: PastedValue }) {
  const { outcomes } = useVocabulary();
  if (!value) return null;
  const { looked } = value;
  if (!looked || looked.error) {
    return (
      <span className="text-mark">
        {value.text} <span className="block text-small">{looked?.error ?? value.problem}</span>
      </span>
    );
  }
  return (
    <>
      {looked.landings.map((landing, at) => (
        <span key={at} className="block">
          <strong>{readingWords(landing, looked.unit, outcomes)}</strong>{" "}
          <span className="text-small text-quiet">{landingWords(landing)}</span>
          {landing.warnings.length > 0 && (
            <span className="block text-small text-mark">⚑ {landing.warnings.join(" ")}</span>
          )}
        </span>
      ))}
    </>
  );
}
