import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { TestShape } from "../../api/client";
import { reviewsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import type { BriefAct } from "./useBriefAct";

interface Props {
  test: TestShape;
  act: BriefAct;
  onClose: () => void;
}

/** The same test, with its settings, cuts and ways of reading, in another review. */
export function CopyTest({ test, act, onClose }: Props) {
  const review = useReview();
  const others = (useQuery(reviewsQuery).data ?? []).filter((one) => one.id !== review.id);
  const [to, setTo] = useState<number | null>(null);
  const target = others.find((one) => one.id === to) ?? others[0];
  const send = async () => {
    if (!target) return;
    const said = `${test.name}, ${test.detail} is in ${target.question} too.`;
    if (await act("POST", `/tests/${test.id}/copy`, { review: target.id }, { said })) onClose();
  };
  return (
    <Dialog open onClose={onClose} title={`${test.name}, ${test.detail}, in another review`}>
      {target ? (
        <Field label="Which one">
          <select value={target.id} onChange={(event) => setTo(Number(event.target.value))}>
            {others.map((one) => (
              <option key={one.id} value={one.id}>
                {one.question}
              </option>
            ))}
          </select>
        </Field>
      ) : (
        <p className="mb-3">There is no other review.</p>
      )}
      <div className="flex gap-3">
        <Button kind="strong" disabled={!target} onClick={() => void send()}>
          Put it there
        </Button>
        <Button onClick={onClose}>Not now</Button>
      </div>
    </Dialog>
  );
}
