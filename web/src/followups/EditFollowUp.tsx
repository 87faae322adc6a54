import { useQuery, useQueryClient } from "@tanstack/react-query";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { reviewQuery } from "../api/queries";
import { refresh } from "../api/stale";
import { Dialog } from "../design/Dialog";
import { VersionedForm } from "../design/VersionedForm";
import { FollowUpFields, saidOf } from "./FollowUpFields";

type FollowUp = Shapes["FollowUpShape"];

const WORDS = {
  what: "What is to be done",
  why: "Why",
  waits_for: "Waits for",
  waits_words: "Which, or who",
  due: "On the day",
  person: "Who sees to it",
  tests: "The tests that it wants",
};

/** Changes what an open follow-up says. */
export function EditFollowUp({ one, onClose }: { one: FollowUp; onClose: () => void }) {
  const client = useQueryClient();
  const review = useQuery({ ...reviewQuery(one.review ?? 0), enabled: one.review !== null });
  if (one.review !== null && !review.data) return null;
  return (
    <Dialog open onClose={onClose} title="Change the follow-up">
      <VersionedForm
        began={one}
        version={(held: FollowUp) => held.version}
        store={(version: number, changes) =>
          act<FollowUp>("PATCH", `/api/follow-ups/${one.id}`, changes, `v${version}`)
        }
        label="The follow-up"
        changesOf={(form) => saidOf(form) as Partial<FollowUp>}
        words={WORDS}
        onSaved={() => void refresh(client, "follow_ups")}
        onClose={onClose}
      >
        <FollowUpFields one={one} tests={review.data?.tests ?? []} />
      </VersionedForm>
    </Dialog>
  );
}
