import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { Letters } from "./account/Letters";
import { Looks } from "./account/Looks";
import { api, body } from "../api/client";
import { teamQuery, tokensQuery } from "../api/queries";
import { useMay, useSession } from "../api/session";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { Failed } from "../shell/States";
import { PasswordForm } from "./account/PasswordForm";
import { SecondFactor } from "./account/SecondFactor";
import { Sessions } from "./account/Sessions";

const SCOPES: Record<string, string> = {
  reading: "reads reviews, figures, captures and findings",
  recording: "reads, and records figures",
};

/** One's own account; and for an admin, what the team has agreed on. */
export function Account() {
  const session = useSession();
  const may = useMay();
  return (
    <main className="mx-auto w-full max-w-[820px] p-5">
      <h1 className="font-serif text-title font-semibold">{session.display_name}</h1>
      <p className="mb-6 text-note text-quiet">
        {session.username}, {session.role}
      </p>
      <Looks />
      <Letters />
      <Tokens />
      <PasswordForm />
      <SecondFactor />
      <Sessions />
      <p className="mt-6 text-note">
        <a href="/api/account/data" download className="underline">
          All that is known of you
        </a>
        , as JSON; it holds no passwords and no captures.
      </p>
      {may("set_team") && <Team />}
    </main>
  );
}

function Tokens() {
  const query = useQuery(tokensQuery);
  const act = useAct();
  const [secret, setSecret] = useState("");
  const make = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const said = new FormData(form);
    const made = await act(
      async () =>
        body(
          await api.POST("/api/tokens", {
            body: { name: String(said.get("name")), scope: String(said.get("scope")) as "reading" },
          }),
        ),
      { made: "tokens" },
    );
    if (!made) return;
    form.reset();
    setSecret(made.secret);
  };
  const revoke = (token: number, name: string) =>
    void act(async () => api.DELETE("/api/tokens/{token}", { params: { path: { token } } }), {
      said: `${name} is revoked; scripts with it are refused from now on.`,
      made: "tokens",
    });
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return (
    <section aria-label="Personal tokens">
      <h2 className="mb-1 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">Personal tokens</h2>
      <p className="mb-3 text-note text-quiet">
        A script signs in with a token of yours and does no more than its scope says, and no more than you
        may.
      </p>
      {query.data?.length === 0 && <p className="mb-3 text-note">None yet.</p>}
      <ul className="mb-4">
        {query.data?.map((one) => (
          <li key={one.id} className="flex items-baseline gap-4 border-b border-line py-1.5">
            <strong>{one.name}</strong>
            <span className="grow text-note text-quiet">
              {SCOPES[one.scope]} · made <When at={one.made_at} /> ·{" "}
              {one.used_at ? (
                <>
                  last used <When at={one.used_at} />
                </>
              ) : (
                "not used yet"
              )}
            </span>
            <Button kind="link" onClick={() => revoke(one.id, one.name)}>
              Revoke
            </Button>
          </li>
        ))}
      </ul>
      <form onSubmit={(event) => void make(event)} className="flex flex-wrap items-end gap-4">
        <Field label="What it is for">
          <input name="name" required maxLength={80} autoComplete="off" />
        </Field>
        <Field label="Scope">
          <select name="scope">
            {Object.entries(SCOPES).map(([scope, words]) => (
              <option key={scope} value={scope}>
                {scope}: {words}
              </option>
            ))}
          </select>
        </Field>
        <Button type="submit" className="mb-3">
          Make a token
        </Button>
      </form>
      {secret && (
        <Dialog open onClose={() => setSecret("")} title="The token, told this once">
          <p className="mb-3 font-mono break-all" data-token>
            {secret}
          </p>
          <p className="mb-3 text-note text-quiet">
            It is kept as a digest and cannot be shown again. Keep it out of texts and repositories.
          </p>
          <Button kind="strong" onClick={() => setSecret("")}>
            I have copied it
          </Button>
        </Dialog>
      )}
    </section>
  );
}

type Asked = "" | "admins" | "everybody";

function Team() {
  const query = useQuery(teamQuery);
  const act = useAct();
  const set = (agreed: { name?: string; two_signatures?: boolean; second_factor?: Asked }, said: string) =>
    void act(async () => body(await api.PUT("/api/team", { body: agreed })), { said, made: "team" });
  return (
    <section aria-label="The team" className="mt-8">
      <h2 className="mb-2 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">The team</h2>
      <label className="mb-2 flex items-baseline gap-2">
        Its name
        <input
          key={query.data?.name}
          defaultValue={query.data?.name}
          disabled={!query.data}
          maxLength={120}
          className="w-72 border border-ink bg-sheet px-2 py-0.5"
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name !== query.data?.name)
              set({ name }, name ? `The team is called ${name}.` : "The team has no name.");
          }}
        />
      </label>
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={query.data?.two_signatures ?? false}
          disabled={!query.data}
          onChange={(event) =>
            set(
              { two_signatures: event.target.checked },
              event.target.checked
                ? "Two signatures are asked for from now on."
                : "One signature, or none, will do.",
            )
          }
        />
        A verdict is signed by its author and a second reader before it is published
      </label>
      <label className="mt-2 flex items-baseline gap-2">
        A second factor is needed by
        <select
          value={query.data?.second_factor ?? ""}
          disabled={!query.data}
          className="border border-ink bg-sheet px-1 py-0.5 text-note"
          onChange={(event) =>
            set(
              { second_factor: event.target.value as Asked },
              event.target.value
                ? "Who has none reads, and does no more, until it is set."
                : "A second factor is up to each.",
            )
          }
        >
          <option value="">nobody</option>
          <option value="admins">admins</option>
          <option value="everybody">everybody</option>
        </select>
      </label>
      <p className="text-note text-quiet">Whoever needs one and has none can only read until it is set.</p>
    </section>
  );
}
