import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { calendarQuery, followUpsQuery } from "../api/standings";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { FollowUpList } from "../followups/FollowUpList";
import { count } from "../marks/words";
import { Failed, Loading } from "../shell/States";

/** All that the team has to see to later, what is due first. */
export function FollowUps() {
  const [ended, setEnded] = useState(false);
  const query = useQuery(followUpsQuery(ended ? { ended: true } : {}));
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const due = query.data.filter((one) => one.is_due).length;
  return (
    <main className="mx-auto w-full max-w-[900px] p-5">
      <div className="mb-3 flex flex-wrap items-baseline gap-4">
        <h1 className="font-serif text-title font-semibold">Follow-ups</h1>
        <span className="text-note text-quiet" role="status">
          {due ? `${count(due, "follow-up")} due` : "Nothing is due."}
        </span>
        <label className="flex items-center gap-1.5 text-note">
          <input type="checkbox" checked={ended} onChange={(event) => setEnded(event.target.checked)} />
          ended too
        </label>
        <span className="ml-auto">
          <Calendar />
        </span>
      </div>
      {query.data.length === 0 ? (
        <p className="font-serif text-lead">
          Nothing waits. Follow-ups are noted on the brief of a review and on the page of a machine.
        </p>
      ) : (
        <FollowUpList found={query.data} about />
      )}
    </main>
  );
}

/** The address by which a calendar reads them. */
function Calendar() {
  const { data } = useQuery(calendarQuery);
  const run = useAct();
  const [shown, setShown] = useState(false);
  const [secret, setSecret] = useState("");
  const base = `${window.location.origin}/follow-ups/${secret}`;
  const make = async () => {
    const made = await run(() => act<Shapes["FeedAddressShape"]>("POST", "/api/account/calendar"), {
      made: "follow_ups",
    });
    if (made) setSecret(made.secret);
  };
  return (
    <>
      <Button onClick={() => setShown(true)}>In your calendar</Button>
      <Dialog
        open={shown}
        onClose={() => {
          setShown(false);
          setSecret("");
        }}
        title="In your calendar"
      >
        {secret ? (
          <>
            <p className="mb-2">
              Give one of these to your calendar or feed reader. Whoever knows it reads the follow-ups; it is
              told this once.
            </p>
            <p className="mb-2 font-mono text-note break-all">{base}.ics</p>
            <p className="mb-3 font-mono text-note break-all">{base}.atom</p>
          </>
        ) : (
          <p className="mb-3">
            {data?.made_at ? (
              <>
                An address was made <When at={data.made_at} />
                {data.used_at ? (
                  <>
                    {" "}
                    and last read <When at={data.used_at} />
                  </>
                ) : (
                  " and not read yet"
                )}
                . Another one takes its place.
              </>
            ) : (
              "An address of your own lets a calendar read what is due, without signing in."
            )}
          </p>
        )}
        <div className="flex gap-3">
          {!secret && (
            <Button kind="strong" onClick={() => void make()}>
              {data?.made_at ? "Make another address" : "Make an address"}
            </Button>
          )}
          {data?.made_at && !secret && (
            <Button
              onClick={() =>
                void run(() => act("DELETE", "/api/account/calendar"), {
                  said: "The address is no longer answered.",
                  made: "follow_ups",
                })
              }
            >
              Give it up
            </Button>
          )}
        </div>
      </Dialog>
    </>
  );
}
