import { act } from "../api/acts";
import { useReview } from "../api/review";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { useAct } from "../design/useAct";

/** Figures from a publication, a reader or memory: shown beside, and in no verdict. */
export function FromOutside({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const run = useAct();
  const store = (form: FormData) => {
    const figures = review.tests.flatMap((test) => {
      const typed = String(form.get(`test-${test.id}`) ?? "").trim();
      return typed ? [{ test: test.id, value: Number(typed.replace(",", ".")) }] : [];
    });
    const told = { named: form.get("named"), told_in: form.get("told_in"), day: form.get("day"), figures };
    return run(() => act("POST", `/api/reviews/${review.id}/references`, told), {
      said: "They stand beside, in no verdict.",
      made: "references",
    });
  };
  return (
    <Dialog open onClose={onClose} title="Figures from outside" wide>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void store(new FormData(event.currentTarget)).then((saved) => saved && onClose());
        }}
      >
        <p className="mb-3 text-note text-quiet">
          They are shown with their source and day, and held against nothing: nobody here knows how they were
          measured.
        </p>
        <Field label="What was measured">
          <input name="named" required maxLength={120} />
        </Field>
        <Field label="Where it is told">
          <input name="told_in" required maxLength={400} placeholder="a publication, a reader, memory" />
        </Field>
        <Field label="Of which day">
          <input name="day" type="date" required />
        </Field>
        <fieldset className="mb-3">
          <legend className="mb-1 text-note font-semibold">Figures, as far as they are told</legend>
          {review.tests.map((test) => (
            <label key={test.id} className="flex items-baseline gap-3 border-t border-line py-1 text-note">
              <span className="min-w-0 flex-1">
                {test.name} {test.short}
              </span>
              <input name={`test-${test.id}`} inputMode="decimal" className="w-28 border border-ink px-1.5" />
            </label>
          ))}
        </fieldset>
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            Put beside
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
