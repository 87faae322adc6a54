import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act as send } from "../api/acts";
import { api, body, type Shapes } from "../api/client";
import { peopleQuery } from "../api/queries";
import { useSession } from "../api/session";
import { Button } from "../design/Button";
import { CreateDialog } from "../design/CreateDialog";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { ListHead } from "../design/ListHead";
import { Menu } from "../design/Menu";
import { useNotices } from "../design/Notices";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { Failed, Loading } from "../shell/States";
import { EraseDialog } from "./people/EraseDialog";
import { SecurityLog } from "./people/SecurityLog";

type Person = Shapes["Member"];
type Offered = Shapes["OfferedShape"];

export const ROLES: Record<string, string> = {
  reader: "reads and comments",
  tester: "also runs, records, sets aside and signs",
  editor: "also edits reviews and publishes",
  admin: "also manages people, benches and the team's settings",
};

/** Who may sign in, as what; and the security log. For admins. */
export function People() {
  const people = useQuery(peopleQuery);
  const [inviting, setInviting] = useState(false);
  const [offered, setOffered] = useState<Offered | null>(null);
  if (people.isPending) return <Loading />;
  if (people.isError) return <Failed error={people.error} again={() => void people.refetch()} />;
  return (
    <main className="mx-auto w-full max-w-[1000px] p-5">
      <ListHead title="People" adds="Invite somebody" onAdd={() => setInviting(true)} />
      <table className="w-full text-note">
        <thead>
          <tr className="border-b-2 border-ink text-left">
            <th className="py-1.5 font-semibold">Name</th>
            <th className="font-semibold">Role</th>
            <th className="font-semibold">State</th>
            <th className="font-semibold">Last sign-in</th>
            <th className="font-semibold">Second factor</th>
            <th>
              <span className="sr-only">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {people.data.map((one) => (
            <Row key={one.id} person={one} onOffered={setOffered} />
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-small text-quiet">
        Nobody is deleted: what somebody did stays on record. The name of somebody who is disabled can be
        taken out of it.
      </p>
      <SecurityLog />
      {inviting && (
        <CreateDialog<Offered>
          title="Invite somebody"
          path="/api/people"
          submit="Make the link"
          onMade={(made) => {
            setInviting(false);
            setOffered(made);
            void people.refetch();
          }}
          onClose={() => setInviting(false)}
        >
          <Field label="How the person is called">
            <input name="display_name" required maxLength={120} autoFocus autoComplete="off" />
          </Field>
          <Field label="Name to sign in with" hint="Lower-case letters, digits, dots and hyphens.">
            <input name="username" required maxLength={40} autoComplete="off" autoCapitalize="none" />
          </Field>
          <Field label="Role">
            <select name="role" defaultValue="tester">
              {Object.entries(ROLES).map(([role, words]) => (
                <option key={role} value={role}>
                  {role}: {words}
                </option>
              ))}
            </select>
          </Field>
        </CreateDialog>
      )}
      {offered && <LinkDialog offered={offered} onClose={() => setOffered(null)} />}
    </main>
  );
}

function Row({ person, onOffered }: { person: Person; onOffered: (made: Offered) => void }) {
  const act = useAct();
  const session = useSession();
  const [erasing, setErasing] = useState(false);
  const { tell } = useNotices();
  const client = useQueryClient();
  const path = { params: { path: { person: person.id } } };
  const change = (changes: { role?: Person["role"]; active?: boolean }, said: string) =>
    void act(async () => body(await api.PATCH("/api/people/{person}", { ...path, body: changes as never })), {
      said,
      made: "people",
    });
  const reset = async (without_second_factor: boolean) => {
    const made = await act(
      () => send<Offered>("POST", `/api/people/${person.id}/reset`, { without_second_factor }),
      { made: "people" },
    );
    if (made) onOffered(made);
  };
  const own = person.username === session.username;
  const items = [
    { label: "Offer a new password", act: () => void reset(false), disabled: person.state === "disabled" },
    ...(person.second_factor
      ? [{ label: "Offer a new password, without the second factor", act: () => void reset(true) }]
      : []),
    {
      label: `Sign out everywhere (${person.sessions})`,
      disabled: !person.sessions,
      act: () =>
        void act(async () => body(await api.DELETE("/api/people/{person}/sessions", path)), {
          said: `${person.display_name} is signed out everywhere.`,
          made: "people",
        }),
    },
    {
      label: "Download all that is known of them",
      act: () => window.location.assign(`/api/people/${person.id}/data`),
    },
    ...(person.state === "disabled"
      ? [{ label: "Take out their name, for good", act: () => setErasing(true) }]
      : []),
    person.state === "disabled"
      ? {
          label: "Enable the account",
          act: () => change({ active: true }, `${person.display_name} may sign in.`),
        }
      : {
          label: "Disable the account",
          act: () => change({ active: false }, `${person.display_name} is disabled and signed out.`),
        },
  ];
  return (
    <tr className={`border-b border-line ${person.state === "disabled" ? "text-quiet" : ""}`}>
      <td className="py-2">
        <strong className="font-serif text-body">{person.display_name}</strong>{" "}
        <span className="text-quiet">
          {person.username}
          {own && ", you"}
        </span>
      </td>
      <td>
        <select
          aria-label={`Role of ${person.display_name}`}
          value={person.role}
          disabled={person.state === "disabled"}
          onChange={(event) =>
            change(
              { role: event.target.value as Person["role"] },
              `${person.display_name} is ${event.target.value} now.`,
            )
          }
        >
          {Object.keys(ROLES).map((role) => (
            <option key={role}>{role}</option>
          ))}
        </select>
      </td>
      <td>{person.state}</td>
      <td>{person.last_sign_in ? <When at={person.last_sign_in} /> : "never"}</td>
      <td>{person.second_factor ? "yes" : "no"}</td>
      <td className="text-right">
        <Menu
          label={`${person.display_name}: what can be done`}
          trigger={
            <button type="button" className="px-1 hover:bg-band">
              …
            </button>
          }
          items={items}
        />
        {erasing && (
          <EraseDialog
            person={person}
            onErased={(words) => {
              setErasing(false);
              tell(words);
              void client.invalidateQueries({ queryKey: ["people"] });
            }}
            onClose={() => setErasing(false)}
          />
        )}
      </td>
    </tr>
  );
}

function LinkDialog({ offered, onClose }: { offered: Offered; onClose: () => void }) {
  const link = `${window.location.origin}/welcome#${offered.secret}`;
  const days = offered.person.state === "invited" ? "7 days" : "a day";
  return (
    <Dialog open onClose={onClose} title="The link, told this once">
      <p className="mb-3 font-mono text-note break-all" data-link>
        {link}
      </p>
      <p className="mb-3 text-note text-quiet">
        Give it to {offered.person.display_name} and to nobody else. It sets a password once, within {days}.
      </p>
      <div className="flex gap-3">
        <Button onClick={() => void navigator.clipboard.writeText(link)}>Copy it</Button>
        <Button kind="strong" onClick={onClose}>
          I have passed it on
        </Button>
      </div>
    </Dialog>
  );
}
