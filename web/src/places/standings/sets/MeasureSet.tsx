import { useQueries, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { act } from "../../../api/acts";
import type { Shapes } from "../../../api/client";
import { systemQuery, systemsQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";

/** Makes a review with the tests of a set, for the configurations that are chosen, and owes their passes. */
export function MeasureSet({ set, onClose }: { set: Shapes["SetStanding"]; onClose: () => void }) {
  const run = useAct();
  const navigate = useNavigate();
  const systems = useQuery(systemsQuery).data ?? [];
  const details = useQueries({ queries: systems.map((one) => systemQuery(one.id)) });
  const [chosen, setChosen] = useState<number[]>([]);
  const toggle = (id: number) =>
    setChosen(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
  const measure = async (form: FormData) => {
    const made = await run(
      () =>
        act<Shapes["SetReviewShape"]>("POST", `/api/test-sets/${set.id}/review`, {
          question: form.get("question"),
          configurations: chosen,
        }),
      { said: "The review is made, and its passes are owed.", made: "review" },
    );
    if (made) void navigate(`/reviews/${made.review}/brief`);
  };
  return (
    <Dialog open onClose={onClose} title={`Measure against ${set.name}`} wide>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void measure(new FormData(event.currentTarget));
        }}
      >
        <Field label="The question of the review">
          <input name="question" required maxLength={300} defaultValue={`How does it do in ${set.name}?`} />
        </Field>
        <fieldset className="mb-3 max-h-[45vh] overflow-auto">
          <legend className="mb-1 text-note font-semibold">Which configurations</legend>
          {details.flatMap((one) =>
            (one.data?.configurations ?? [])
              .filter((each) => each.replaced_by === null && each.archived_at === null)
              .map((each) => (
                <label
                  key={each.id}
                  className="flex items-baseline gap-2 border-t border-line py-1 text-note"
                >
                  <input
                    type="checkbox"
                    checked={chosen.includes(each.id)}
                    onChange={() => toggle(each.id)}
                  />
                  <span className="min-w-0 flex-1">{each.title}</span>
                  <span className="text-quiet">{one.data?.name}</span>
                </label>
              )),
          )}
        </fieldset>
        <div className="flex gap-3">
          <Button kind="strong" type="submit" disabled={!chosen.length}>
            Make the review
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
