/** Said over a form that holds what was typed earlier and never sent. */
export function DraftNote() {
  return (
    <p role="status" className="mb-2 text-note text-quiet">
      What you had typed here before is back.
    </p>
  );
}
