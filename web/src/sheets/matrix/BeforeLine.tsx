/** Says of a cell that its passes ran before an update; why stands above the matrix. */
export function BeforeLine({ why }: { why: string[] }) {
  if (!why.length) return null;
  return (
    <div className="truncate text-small text-quiet" title={why.join("; ")}>
      measured before an update
    </div>
  );
}
