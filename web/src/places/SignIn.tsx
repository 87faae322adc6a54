import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { signIn } from "../api/acts";
import { Problem } from "../api/client";
import { keys } from "../api/queries";
import { Button } from "../design/Button";
import { Field } from "../design/Field";
import { PasswordField } from "../design/PasswordField";

/** The way in. */
export function SignIn({ from }: { from: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const [asksForCode, setAsksForCode] = useState(false);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    setBusy(true);
    setProblem("");
    try {
      const code = String(form.get("code") ?? "");
      const session = await signIn(String(form.get("username")), String(form.get("password")), code);
      // What was asked before signing in must not be answered after it.
      await client.cancelQueries({ queryKey: keys.session });
      client.setQueryData(keys.session, session);
      void navigate(from === "/" ? "/reviews" : from, { replace: true });
    } catch (error) {
      const asks = error instanceof Problem && error.members.second_factor === true;
      if (asks) setAsksForCode(true);
      // The first time that a code is asked for is no mistake.
      if (!asks || asksForCode) setProblem((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <main className="mx-auto flex min-h-screen w-full max-w-[940px] flex-col justify-center gap-10 px-6 md:flex-row md:items-center">
      <div className="flex-1">
        <h1 className="font-serif text-[40px] leading-tight font-semibold">Nomothet</h1>
        <p className="mt-4 font-serif text-lead">
          A review asks one question of several configurations. Nomothet keeps the evidence, says how sure
          each difference is, and shows what differs that nobody asked about.
        </p>
      </div>
      <form onSubmit={(event) => void submit(event)} className="w-full max-w-80 border-l-2 border-ink pl-8">
        <h2 className="mb-4 font-serif text-lead font-semibold">Sign in</h2>
        <Field label="Name">
          <input name="username" autoComplete="username" required autoFocus />
        </Field>
        <PasswordField label="Password" name="password" />
        {asksForCode && (
          <Field label="Code" hint="The one that your device shows now, or a recovery code.">
            <input name="code" autoComplete="one-time-code" required maxLength={20} autoFocus />
          </Field>
        )}
        {problem && (
          <p className="mb-3 text-note text-mark" role="alert">
            {problem}
          </p>
        )}
        <Button kind="strong" type="submit" disabled={busy}>
          {busy ? "Signing in …" : "Sign in"}
        </Button>
        <p className="mt-5 text-note text-quiet">
          In a demo, names and passwords stand in the terminal that runs it.
        </p>
      </form>
    </main>
  );
}
