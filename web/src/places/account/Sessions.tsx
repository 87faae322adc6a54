import { useQuery } from "@tanstack/react-query";
import { api, body } from "../../api/client";
import { accountQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { Failed } from "../../shell/States";

/** Where one is signed in, and since when. */
export function Sessions() {
  const account = useQuery(accountQuery);
  const act = useAct();
  const end = (visit: string) =>
    void act(
      async () => body(await api.DELETE("/api/account/sessions/{visit}", { params: { path: { visit } } })),
      { said: "That session is over.", made: "account" },
    );
  const endOthers = () =>
    void act(async () => body(await api.DELETE("/api/account/sessions")), {
      said: "You are signed out everywhere else.",
      made: "account",
    });
  if (account.isError) return <Failed error={account.error} again={() => void account.refetch()} />;
  const sessions = account.data?.sessions ?? [];
  return (
    <section aria-label="Sessions" className="mt-8">
      <h2 className="mb-1 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">Sessions</h2>
      <p className="mb-2 text-note text-quiet">
        A session is over after 12 hours, and earlier when it is not used.
      </p>
      <ul className="mb-3">
        {sessions.map((one) => (
          <li key={one.id} className="flex items-baseline gap-4 border-b border-line py-1.5">
            <span className="min-w-0 grow">
              <strong>{one.here ? "This browser" : browserOf(one.agent)}</strong>{" "}
              <span className="text-note text-quiet">
                {one.address}
                {one.begun_at && (
                  <>
                    {" "}
                    · signed in <When at={one.begun_at} />
                  </>
                )}
                {one.seen_at && !one.here && (
                  <>
                    {" "}
                    · last used <When at={one.seen_at} />
                  </>
                )}
              </span>
            </span>
            {!one.here && (
              <Button kind="link" onClick={() => end(one.id)}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
      {sessions.length > 1 && <Button onClick={endOthers}>Sign out everywhere else</Button>}
    </section>
  );
}

/** What a browser says it is, without the rest. */
export function browserOf(agent: string): string {
  const system = /\((?:X11; )?([^;)]+)/.exec(agent)?.[1];
  return system ? `A browser on ${system}` : "A browser";
}
