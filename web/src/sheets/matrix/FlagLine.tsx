import type { MatrixShape, Shapes } from "../../api/client";

type Flag = Shapes["FlagShape"];

export function flagsOf(matrix: Pick<MatrixShape, "flags">, test: number, column: number): Flag[] {
  return matrix.flags.find((row) => row.test === test)?.cells[String(column)] ?? [];
}

/** What is conspicuous about a cell, in one line, with the rest in the pane; or all of it, where there is no pane. */
export function FlagLine({ flags, all = false }: { flags: Flag[]; all?: boolean }) {
  const grave = flags.filter((flag) => flag.severity !== "notes");
  const first = grave[0];
  if (!first) return null;
  if (all) {
    return grave.map((flag) => (
      <div key={flag.key} className="text-small text-mark">
        ⚑ {flag.words}
      </div>
    ));
  }
  return (
    <div className="truncate text-small text-mark" title={grave.map((flag) => flag.words).join("; ")}>
      ⚑ {first.words}
      {grave.length > 1 && ` · ${grave.length - 1} more`}
    </div>
  );
}
