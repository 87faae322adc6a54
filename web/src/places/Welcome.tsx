import { useState, type FormEvent } from "react";
import { useQuery } from "@tanstack/react-query";
import { useLocation } from "react-router";
import { api, body } from "../api/client";
import { Button } from "../design/Button";
import { PasswordField } from "../design/PasswordField";
import { Failed, Loading } from "../shell/States";

/** Where a one-time link leads: a password is set, once. The secret stands behind the #, which no server is sent. */
export function Welcome() {
  const secret = useLocation().hash.slice(1);
  const link = useQuery({
    queryKey: ["welcome", secret],
    queryFn: async () => body(await api.POST("/api/welcome", { body: { secret } })),
    retry: false,
    refetchOnWindowFocus: false,
  });
  const [done, setDone] = useState(false);
  const [problem, setProblem] = useState("");
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const password = String(form.get("password"));
    if (password !== form.get("again")) {
      setProblem("The two are not the same; type them again.");
      return;
    }
    try {
      await api.PUT("/api/welcome", { body: { secret, password } });
      setDone(true);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  if (link.isPending) return <Loading />;
  if (link.isError) return <Failed error={link.error} again={() => void link.refetch()} />;
  return (
    <main className="mx-auto flex min-h-screen w-full max-w-[440px] flex-col justify-center px-6">
      <h1 className="font-serif text-title font-semibold">
        {link.data.purpose === "invitation" ? `Welcome, ${link.data.display_name}` : "A new password"}
      </h1>
      {done ? (
        <p className="mt-3" role="status">
          Your password is set.{" "}
          <a href="/reviews" className="underline">
            Sign in as {link.data.username}
          </a>
        </p>
      ) : (
        <form onSubmit={(event) => void submit(event)} className="mt-4">
          <p className="mb-3 text-note">
            You sign in as <strong>{link.data.username}</strong>. Choose a password of 12 characters or more;
            several words are easy to keep in mind.
          </p>
          <input type="hidden" name="username" autoComplete="username" value={link.data.username} readOnly />
          <PasswordField label="Password" name="password" fresh autoFocus />
          <PasswordField label="The same again" name="again" fresh />
          {problem && (
            <p role="alert" className="mb-3 text-note text-mark">
              {problem}
            </p>
          )}
          <Button kind="strong" type="submit">
            Set the password
          </Button>
        </form>
      )}
    </main>
  );
}
