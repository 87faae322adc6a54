import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { historyQuery } from "../api/queries";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { When } from "../design/When";

interface Props {
  kind: string;
  id: number;
  name: string;
}

/** Who did what to an object, and when. */
export function History({ kind, id, name }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button kind="link" onClick={() => setOpen(true)}>
        History
      </Button>
      {open && (
        <Dialog open onClose={() => setOpen(false)} title={`History of ${name}`} wide>
          <Events kind={kind} id={id} />
        </Dialog>
      )}
    </>
  );
}

function Events({ kind, id }: { kind: string; id: number }) {
  const events = useQuery(historyQuery(kind, id));
  if (events.isError) return <p role="alert">{events.error.message}</p>;
  if (!events.data) return <p className="text-quiet">Loading …</p>;
  if (!events.data.length) return <p>Nothing has been done to it yet.</p>;
  return (
    <ol className="border-t border-line text-note">
      {events.data.map((event) => (
        <li key={event.id} className="border-b border-line py-2">
          <strong>{event.act}</strong> by {event.by}, <When at={event.at} />
          <ul className="text-quiet">
            {event.changes.map((change) => (
              <li key={change.field} className="break-words">
                {change.field.replaceAll("_", " ")}: {plain(change.before)} → {plain(change.after)}
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ol>
  );
}

function plain(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  if (Array.isArray(value)) return value.length ? value.map(named).join(", ") : "nothing";
  return named(value);
}

function named(value: unknown): string {
  if (typeof value !== "object" || value === null) return String(value);
  const one = value as Record<string, unknown>;
  if ("key" in one && "value" in one) return `${String(one.key)} ${String(one.value)}`;
  return String(one.name ?? one.key ?? JSON.stringify(value));
}
