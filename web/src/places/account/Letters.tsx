import { useState, type FormEvent } from "react";
import { usePreferences, type Preferences } from "../../api/preferences";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";

const KINDS = [
  ["named", "I am named in a comment"],
  ["failed", "a pass of a review of mine, or one that I asked for, does not complete"],
  ["stopped", "a docket stops on which I wait"],
  ["due", "a follow-up of mine is due"],
] as const;

/** Comments and what comes due, told by the browser while a page is open but not looked at; asked for on each machine. */
function InTheBrowser() {
  const able = "Notification" in window;
  const [state, setState] = useState(able ? Notification.permission : "denied");
  if (state === "granted")
    return <p className="mb-3 text-note">This browser tells you of comments and of what comes due.</p>;
  return (
    <p className="mb-3 flex flex-wrap items-baseline gap-3 text-note">
      {state === "denied" ? (
        "This browser does not let pages tell you anything; its settings for this address can."
      ) : (
        <Button onClick={() => void Notification.requestPermission().then(setState)}>
          Let this browser tell me while a page is open
        </Button>
      )}
    </p>
  );
}

/** Of what one is told by e-mail, and where. */
export function Letters() {
  const { preferences, set } = usePreferences();
  const { warn, tell } = useNotices();
  if (!preferences) return null;
  const choose = (changes: Partial<Preferences>, said = "") =>
    set(changes).then(
      () => said && tell(said),
      (error: Error) => warn(error.message),
    );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const email = String(new FormData(event.currentTarget).get("email") ?? "").trim();
    void choose({ email }, email ? `Letters go to ${email}.` : "No letter is sent to you.");
  };
  return (
    <section aria-label="Letters" className="mt-6 mb-8">
      <h2 className="mb-2 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">
        What you are told
      </h2>
      <InTheBrowser />
      {!preferences.mail_works && (
        <p className="mb-2 text-note text-mark">
          No mail server is set, so nothing is sent; who looks after the installation sets one.
        </p>
      )}
      <form onSubmit={submit} className="flex items-end gap-3">
        <Field label="E-mail">
          <input
            key={preferences.email}
            name="email"
            type="email"
            defaultValue={preferences.email}
            maxLength={200}
            autoComplete="email"
          />
        </Field>
        <Button type="submit" className="mb-3">
          Keep it
        </Button>
      </form>
      <fieldset className="text-note">
        <legend className="mb-1 font-semibold">Write to me when</legend>
        {KINDS.map(([kind, words]) => (
          <label key={kind} className="flex items-baseline gap-2 py-0.5">
            <input
              type="checkbox"
              checked={preferences.mail.includes(kind)}
              onChange={(event) =>
                void choose({
                  mail: event.target.checked
                    ? [...preferences.mail, kind]
                    : preferences.mail.filter((one) => one !== kind),
                })
              }
            />
            {words}
          </label>
        ))}
      </fieldset>
    </section>
  );
}
