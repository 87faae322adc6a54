import { useState, type FormEvent } from "react";
import { useQuery } from "@tanstack/react-query";
import { useLocation } from "react-router";
import { signIn } from "../api/acts";
import { api } from "../api/client";
import { Button } from "../design/Button";
import { Field } from "../design/Field";
import { markMistakes } from "../design/mistaken";
import { PasswordField } from "../design/PasswordField";
import { Failed, Loading } from "../shell/States";

/** The first page of an empty installation: the team's name and its first admin. The secret stands behind the #, which
 * no server is sent. */
export function Begin() {
  const secret = useLocation().hash.slice(1);
  const good = useQuery({
    queryKey: ["beginning", secret],
    queryFn: async () => {
      await api.POST("/api/beginning", { body: { secret } });
      // What signing in needs comes along with it.
      await api.GET("/api/session");
      return true;
    },
    retry: false,
    refetchOnWindowFocus: false,
  });
  const [problem, setProblem] = useState("");
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const told = Object.fromEntries([...new FormData(form)].map(([name, value]) => [name, String(value)]));
    const { team = "", username = "", display_name = "", password = "" } = told;
    if (password !== told["again"]) {
      setProblem("The two passwords are not the same; type them again.");
      return;
    }
    try {
      await api.PUT("/api/beginning", { body: { secret, team, username, display_name, password } });
      await signIn(username, password, "");
      window.location.assign("/first");
    } catch (error) {
      setProblem((error as Error).message);
      markMistakes(form, error);
    }
  };
  if (good.isPending) return <Loading />;
  if (good.isError) return <Failed error={good.error} again={() => void good.refetch()} />;
  return (
    <main className="mx-auto flex min-h-screen w-full max-w-[560px] flex-col justify-center px-6 py-8">
      <h1 className="font-serif text-title font-semibold">Begin with your own machines</h1>
      <p className="mt-2 mb-4 font-serif text-lead">
        Name the team and yourself. You become its first admin; others are invited later, under People.
      </p>
      <form onSubmit={(event) => void submit(event)}>
        <Field label="The team" hint="It stands at the top of every page.">
          <input name="team" required maxLength={120} autoFocus autoComplete="organization" />
        </Field>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <Field label="Your name" hint="As others read it.">
            <input name="display_name" required maxLength={120} autoComplete="name" />
          </Field>
          <Field label="Name to sign in with" hint="Lower-case letters, digits, dots.">
            <input name="username" required maxLength={40} autoComplete="username" autoCapitalize="none" />
          </Field>
          <PasswordField label="Password" name="password" fresh />
          <PasswordField label="The same again" name="again" fresh />
        </div>
        <p className="mb-3 text-note text-quiet">
          12 characters or more; several words are easy to keep in mind.
        </p>
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <Button kind="strong" type="submit">
          Begin
        </Button>
      </form>
    </main>
  );
}
