import { useState, type FormEvent } from "react";
import { act } from "../../api/acts";
import type { ConfigurationShape } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";

/** Note what was read off the machine, beside what is set. */
export function Observe({ configuration }: { configuration: ConfigurationShape }) {
  const [open, setOpen] = useState(false);
  const run = useAct();
  const rows = configuration.settings_table.filter((row) => row.where !== "run");
  if (!rows.length) return null;
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const stored = await run(
      () =>
        act(
          "POST",
          `/api/configurations/${configuration.id}/observations`,
          Object.fromEntries(new FormData(form)),
        ),
      { said: "Noted.", made: "systems" },
    );
    if (stored) form.reset();
  };
  if (!open) {
    return (
      <Button kind="link" className="mt-1" onClick={() => setOpen(true)}>
        Note what was observed
      </Button>
    );
  }
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="mt-2 flex items-end gap-2 text-note"
      aria-label="What was observed"
    >
      <label>
        Setting
        <select name="key" className="block border border-ink bg-sheet px-2 py-1">
          {rows.map((row) => (
            <option key={row.key} value={row.key}>
              {row.label}
            </option>
          ))}
        </select>
      </label>
      <label>
        Read off the machine
        <input name="value" required className="block border border-ink bg-sheet px-2 py-1" />
      </label>
      <Button type="submit">Note it</Button>
      <Button kind="link" onClick={() => setOpen(false)}>
        Close
      </Button>
    </form>
  );
}
