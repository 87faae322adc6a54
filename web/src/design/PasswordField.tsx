import { useState } from "react";
import { Field } from "./Field";

interface Props {
  label: string;
  name: string;
  /** A new one: how strong it looks is said while it is typed. */
  fresh?: boolean;
  autoFocus?: boolean;
}

const LEAST = 12;

/** A password, which can be looked at while it is typed. */
export function PasswordField({ label, name, fresh = false, autoFocus }: Props) {
  const [shown, setShown] = useState(false);
  const [typed, setTyped] = useState("");
  return (
    <div className="mb-3">
      <Field label={label}>
        <input
          name={name}
          type={shown ? "text" : "password"}
          autoComplete={fresh ? "new-password" : "current-password"}
          autoCapitalize="none"
          spellCheck={false}
          required
          autoFocus={autoFocus}
          onChange={(event) => setTyped(event.target.value)}
        />
      </Field>
      <p className="-mt-2 flex gap-3 text-small text-quiet">
        <button type="button" className="underline" aria-pressed={shown} onClick={() => setShown(!shown)}>
          {shown ? "hide it" : "show it"}
        </button>
        {fresh && typed && <span role="status">{strength(typed)}</span>}
      </p>
    </div>
  );
}

/** How hard a password looks to guess, in words: its length, and how many different characters it has. */
export function strength(typed: string): string {
  const length = [...typed].length;
  if (length < LEAST) return `${length} of ${LEAST} characters`;
  const different = new Set(typed.toLowerCase()).size;
  if (different < 6) return "long enough, but nearly the same character all along";
  return length >= 20 || (length >= 16 && different >= 10) ? "strong" : "good; longer is better";
}
