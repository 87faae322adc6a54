import { useId, useRef, useState, type KeyboardEvent } from "react";
import type { Shapes } from "../api/client";
import { Button } from "../design/Button";

interface Props {
  label: string;
  people: Shapes["PersonShape"][];
  initial?: string;
  /** Whether it was taken; then the field is empty again. */
  onSend: (text: string) => Promise<boolean>;
  onClose?: () => void;
  autoFocus?: boolean;
}

/** A field for a comment; "@" offers the people, Ctrl+Enter sends. */
export function Composer({ label, people, initial = "", onSend, onClose, autoFocus = true }: Props) {
  const field = useRef<HTMLTextAreaElement>(null);
  const list = useId();
  const [text, setText] = useState(initial);
  const [typed, setTyped] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const [busy, setBusy] = useState(false);
  const offered =
    typed === null
      ? []
      : people
          .filter((one) => `${one.username} ${one.display_name}`.toLowerCase().includes(typed.toLowerCase()))
          .slice(0, 6);
  const look = () => {
    const { value, selectionStart } = field.current ?? { value: "", selectionStart: 0 };
    setText(value);
    setTyped(/(?:^|[^\w@])@([\w.-]*)$/.exec(value.slice(0, selectionStart))?.[1] ?? null);
    setAt(0);
  };
  const name = (username: string) => {
    const area = field.current;
    if (!area || typed === null) return;
    area.setRangeText(`${username} `, area.selectionStart - typed.length, area.selectionStart, "end");
    area.focus();
    look();
  };
  const send = async () => {
    if (!text.trim() || busy) return;
    setBusy(true);
    const taken = await onSend(text);
    setBusy(false);
    if (taken) setText("");
  };
  const onKey = (event: KeyboardEvent) => {
    const chosen = offered[at];
    if (chosen && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      event.preventDefault();
      setAt((at + (event.key === "ArrowDown" ? 1 : offered.length - 1)) % offered.length);
    } else if (chosen && (event.key === "Enter" || event.key === "Tab") && !event.ctrlKey) {
      event.preventDefault();
      name(chosen.username);
    } else if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      void send();
    } else if (event.key === "Escape") {
      event.stopPropagation();
      if (offered.length) setTyped(null);
      else onClose?.();
    }
  };
  return (
    <div className="relative">
      <textarea
        ref={field}
        value={text}
        rows={3}
        maxLength={4000}
        aria-label={label}
        placeholder="@ names somebody; Ctrl+Enter sends"
        autoFocus={autoFocus}
        role="combobox"
        aria-expanded={offered.length > 0}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={offered.length ? `${list}-${at}` : undefined}
        onChange={look}
        onKeyDown={onKey}
        className="w-full border border-ink bg-sheet px-2 py-1"
      />
      {offered.length > 0 && (
        <ul
          id={list}
          role="listbox"
          aria-label="People"
          className="absolute z-20 -mt-1 w-56 border border-ink bg-sheet text-note"
        >
          {offered.map((one, place) => (
            <li
              key={one.username}
              id={`${list}-${place}`}
              role="option"
              aria-selected={place === at}
              onMouseDown={(event) => {
                event.preventDefault();
                name(one.username);
              }}
              className={`cursor-pointer px-2 py-0.5 ${place === at ? "bg-band" : ""}`}
            >
              {one.display_name} <span className="text-quiet">@{one.username}</span>
            </li>
          ))}
        </ul>
      )}
      <p className="mt-1 flex gap-3">
        <Button disabled={!text.trim() || busy} onClick={() => void send()}>
          Send
        </Button>
        {onClose && (
          <Button kind="link" onClick={onClose}>
            Leave it
          </Button>
        )}
      </p>
    </div>
  );
}
