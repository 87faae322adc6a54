import { useState, type FormEvent } from "react";
import { api, body } from "../../api/client";
import { Button } from "../../design/Button";
import { PasswordField } from "../../design/PasswordField";
import { useAct } from "../../design/useAct";

/** A new password of one's own; the sessions elsewhere end. */
export function PasswordForm() {
  const act = useAct();
  const [open, setOpen] = useState(false);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const done = await act(
      async () =>
        body(
          await api.PUT("/api/account/password", {
            body: { password: String(form.get("old")), new: String(form.get("new")) },
          }),
        ),
      { said: "Your password is new, and you are signed out everywhere else.", made: "account" },
    );
    if (done) setOpen(false);
  };
  return (
    <section aria-label="Password" className="mt-8">
      <h2 className="mb-2 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">Password</h2>
      {open ? (
        <form onSubmit={(event) => void submit(event)} className="flex flex-wrap items-start gap-4">
          <PasswordField label="The one of now" name="old" autoFocus />
          <PasswordField label="The new one, 12 characters or more" name="new" fresh />
          <Button kind="strong" type="submit" className="mt-5">
            Change it
          </Button>
          <Button className="mt-5" onClick={() => setOpen(false)}>
            Not now
          </Button>
        </form>
      ) : (
        <Button onClick={() => setOpen(true)}>Change the password</Button>
      )}
    </section>
  );
}
