import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { TestShape } from "../api/client";
import { followUpsQuery } from "../api/standings";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { FollowUpList } from "./FollowUpList";
import { NoteFollowUp } from "./NoteFollowUp";

interface Props {
  about: { review: number } | { system: number };
  tests?: TestShape[];
}

/** What is to be seen to later of one review or machine. */
export function FollowUpsOf({ about, tests }: Props) {
  const may = useMay();
  const { data } = useQuery(followUpsQuery(about));
  const [noting, setNoting] = useState(false);
  if (!data || (!data.length && !may("follow_up"))) return null;
  return (
    <section aria-label="Follow-ups" className="mt-6 mb-6">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-serif text-lead font-semibold">Follow-ups</h2>
        {may("follow_up") && <Button onClick={() => setNoting(true)}>Note a follow-up</Button>}
      </div>
      {data.length === 0 ? (
        <p className="text-note text-quiet">
          Nothing waits. What is to be measured again, or asked, or fitted later is noted here.
        </p>
      ) : (
        <FollowUpList found={data} about={false} />
      )}
      {noting && <NoteFollowUp about={about} tests={tests} onClose={() => setNoting(false)} />}
    </section>
  );
}
