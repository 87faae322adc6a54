import { Button } from "../../../design/Button";
import { count } from "../../../marks/words";
import type { GroupLine, Line } from "./lines";

/** What a row is: the workload where it stands alone, the test on its first row, the metric. */
export function RowHead({ line }: { line: Line }) {
  return (
    <>
      {line.heading && <div className="text-note font-semibold">{line.heading}</div>}
      <div className={`text-note font-normal ${line.heading ? "" : "pl-3"}`}>
        {line.short && <span className={line.label ? "font-semibold" : ""}>{line.short}</span>}
        {line.short && line.label && " · "}
        {line.label && <span className="text-quiet">{line.label}</span>}
      </div>
    </>
  );
}

/** The name of a workload over its tests, which it folds. */
export function GroupHead({ line, onFold }: { line: GroupLine; onFold?: () => void }) {
  const words = (
    <>
      <span className="text-note font-semibold">{line.name}</span>
      {line.detail && <span className="pl-2 text-small font-normal text-quiet">{line.detail}</span>}
    </>
  );
  if (!onFold) return <div className="py-0.5">{words}</div>;
  return (
    <Button
      kind="bare"
      className="block w-full py-0.5 text-left"
      aria-expanded={!line.folded}
      onClick={onFold}
    >
      <span aria-hidden="true" className="inline-block w-3 text-small text-quiet">
        {line.folded ? "▸" : "▾"}
      </span>
      {words}
      {line.folded && (
        <span className="pl-2 text-small font-normal text-quiet">{count(line.rows, "row")} folded</span>
      )}
    </Button>
  );
}
