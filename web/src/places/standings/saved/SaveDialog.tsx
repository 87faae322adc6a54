import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";

/** Keeps what is shown under a name, for the team. */
export function SaveDialog({ query, onClose }: { query: Record<string, string>; onClose: () => void }) {
  const run = useAct();
  const save = (form: FormData) =>
    run(
      () =>
        act<Shapes["SavedShape"]>("POST", "/api/saved-standings", {
          name: form.get("name"),
          note: form.get("note"),
          query,
        }),
      { said: "Saved for the team.", made: "standings" },
    );
  return (
    <Dialog open onClose={onClose} title="Save what is shown">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void save(new FormData(event.currentTarget)).then((saved) => saved && onClose());
        }}
      >
        <Field label="Name">
          <input name="name" required maxLength={120} />
        </Field>
        <Field label="What it is for" hint="Readers see it, should it be published.">
          <textarea name="note" rows={2} maxLength={2000} />
        </Field>
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            Save
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
