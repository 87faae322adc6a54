import { useQueryClient } from "@tanstack/react-query";
import type { Shapes, TestShape } from "../api/client";
import { refresh } from "../api/stale";
import { CreateDialog } from "../design/CreateDialog";
import { useNotices } from "../design/Notices";
import { FollowUpFields, saidOf } from "./FollowUpFields";

interface Props {
  about: { review?: number; system?: number; hypothesis?: number; record?: string };
  tests?: TestShape[];
  onClose: () => void;
}

/** Notes that something of a review or a machine is to be seen to later. */
export function NoteFollowUp({ about, tests = [], onClose }: Props) {
  const client = useQueryClient();
  const { tell } = useNotices();
  return (
    <CreateDialog<Shapes["FollowUpShape"]>
      title="Note a follow-up"
      path="/api/follow-ups"
      submit="Note it"
      bodyOf={(form) => ({ ...saidOf(form), ...about })}
      onMade={() => {
        void refresh(client, "follow_ups");
        tell("Noted.");
        onClose();
      }}
      onClose={onClose}
    >
      <FollowUpFields tests={tests} />
    </CreateDialog>
  );
}
