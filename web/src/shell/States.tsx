import { Button } from "../design/Button";

/** Something is on its way. */
export function Loading({ what = "Loading" }: { what?: string }) {
  return (
    <p className="p-8 text-quiet" role="status">
      {what} …
    </p>
  );
}

/** Something could not be had: what happened, and what to do. */
export function Failed({ error, again }: { error: Error; again: () => void }) {
  return (
    <div className="m-5 max-w-xl self-start border border-mark bg-sheet p-4" role="alert">
      <p className="font-semibold">This could not be shown.</p>
      <p className="mt-1">{error.message}</p>
      <p className="mt-1 text-quiet">Nothing was changed.</p>
      <Button className="mt-3" onClick={again}>
        Try again
      </Button>
    </div>
  );
}
