import { useNavigate } from "react-router";
import { act } from "../../api/acts";
import type { ReviewShape, Shapes } from "../../api/client";
import { CreateDialog } from "../../design/CreateDialog";
import { Field } from "../../design/Field";
import { Menu } from "../../design/Menu";
import { useAct } from "../../design/useAct";
import { useKeeping } from "../../design/useKeeping";

/** A review begins with its question, and with what is expected before anything is measured. */
export function NewReview({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  return (
    <CreateDialog<ReviewShape>
      title="Ask a question"
      path="/api/reviews"
      submit="Begin the review"
      onMade={(made) => void navigate(`/reviews/${made.id}/brief`)}
      onClose={onClose}
    >
      <Field label="The question, as a sentence">
        <textarea name="question" rows={2} required maxLength={300} autoFocus />
      </Field>
      <Field label="What do you expect?" hint="Written down now, it is worth something later.">
        <textarea name="expectation" rows={2} />
      </Field>
      <Field label="Who is it for?">
        <input name="audience" maxLength={300} />
      </Field>
      <label className="mb-3 flex items-center gap-2 text-note">
        <input type="checkbox" name="single" value="true" />
        One configuration alone, judged by its targets and held against no other
      </label>
    </CreateDialog>
  );
}

/** What can be done with a review as a whole. */
export function ItemMenu({ review }: { review: Shapes["ReviewItem"] }) {
  const run = useAct();
  const navigate = useNavigate();
  const path = `/api/reviews/${review.id}`;
  const { archive, remove } = useKeeping(path, "The review", "review");
  const copy = async () => {
    const made = await run(() => act<ReviewShape>("POST", `${path}/copy`), {
      said: "The plan is copied, without any passes.",
      made: "review",
    });
    if (made) void navigate(`/reviews/${made.id}/brief`);
  };
  return (
    <Menu
      label={`${review.question}: what can be done`}
      trigger={
        <button type="button" className="ml-2 px-1 hover:bg-band">
          …
        </button>
      }
      items={[
        { label: "Duplicate its plan", act: () => void copy() },
        review.archived
          ? { label: "Bring it back", act: () => archive(false) }
          : { label: "Archive it", act: () => archive(true) },
        {
          label: review.kept || review.record ? "Delete it (it has passes, so it stays)" : "Delete it",
          disabled: Boolean(review.kept || review.record),
          act: () => void remove(() => undefined),
        },
      ]}
    />
  );
}
