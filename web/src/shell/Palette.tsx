import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { findQuery } from "../api/queries";
import { useMay } from "../api/session";
import { found } from "../design/Search";
import { actsAt, type PaletteAct } from "./paletteActs";

interface Line {
  key: string;
  kind: string;
  words: string;
  detail: string;
  go: () => void;
}

const TYPING_MS = 150;
const MOST_ACTS = 8;

/** Goes anywhere, finds anything that has a name, and does what can be done here; opened by Ctrl+K. */
export function Palette({ onClose, own }: { onClose: () => void; own: PaletteAct[] }) {
  const navigate = useNavigate();
  const location = useLocation();
  const may = useMay();
  const [text, setText] = useState("");
  const [asked, setAsked] = useState("");
  const [at, setAt] = useState(0);
  const dialog = useRef<HTMLDialogElement>(null);
  const list = useRef<HTMLUListElement>(null);
  const id = useId();
  // Open at once and not once something is loaded: who presses Ctrl+K is typing already.
  useLayoutEffect(() => {
    const shown = dialog.current;
    shown?.showModal();
    return () => shown?.close();
  }, []);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(text.trim()), TYPING_MS);
    return () => window.clearTimeout(timer);
  }, [text]);
  const names = useQuery({ ...findQuery(asked), enabled: asked !== "" });
  const acts = [...own, ...actsAt(location.pathname, may)]
    .filter((one) => found(text, one.words, one.detail))
    .slice(0, text ? MOST_ACTS : undefined)
    .map((one): Line => {
      const { path, act } = one;
      return { ...one, key: one.words, kind: "go", go: act ?? (() => void navigate(path ?? "/")) };
    });
  const named = (asked ? (names.data ?? []) : []).map((one): Line => ({
    key: `${one.kind} ${one.path}`,
    kind: one.kind,
    words: one.words,
    detail: one.detail,
    go: () => (one.public ? window.location.assign(one.path) : void navigate(one.path)),
  }));
  const lines = [...acts, ...named];
  const chosen = Math.min(at, lines.length - 1);
  useEffect(() => {
    list.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const take = (line: Line | undefined) => {
    if (!line) return;
    onClose();
    line.go();
  };
  const keys: Record<string, () => void> = {
    ArrowDown: () => setAt(Math.min(chosen + 1, lines.length - 1)),
    ArrowUp: () => setAt(Math.max(chosen - 1, 0)),
    Home: () => setAt(0),
    End: () => setAt(lines.length - 1),
    Enter: () => take(lines[chosen]),
  };
  return (
    <dialog
      ref={dialog}
      aria-label="Go anywhere, find or do anything"
      onCancel={onClose}
      onClick={(event) => event.target === dialog.current && onClose()}
      className="fixed top-[12vh] left-1/2 z-50 m-0 max-h-[70vh] w-[92vw] max-w-[640px] -translate-x-1/2 flex-col border border-ink bg-sheet text-ink backdrop:bg-bar/50 open:flex"
    >
      <input
        autoFocus
        role="combobox"
        aria-label="Go, find or do"
        aria-expanded
        aria-controls={id}
        aria-activedescendant={lines.length ? `${id}-${chosen}` : undefined}
        autoComplete="off"
        spellCheck={false}
        placeholder="Where to, or what of? A review, a part, an act …"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const move = keys[event.key];
          if (!move || event.nativeEvent.isComposing) return;
          event.preventDefault();
          move();
        }}
        className="border-b-2 border-ink bg-sheet px-4 py-2.5 font-serif text-lead placeholder:text-quiet focus-visible:outline-offset-[-3px]"
      />
      <ul ref={list} id={id} role="listbox" aria-label="Found" className="min-h-0 overflow-auto py-1">
        {lines.map((line, place) => (
          <li
            key={line.key}
            id={`${id}-${place}`}
            role="option"
            aria-selected={place === chosen}
            onClick={() => take(line)}
            onMouseMove={() => setAt(place)}
            className={`flex cursor-pointer items-baseline gap-3 border-l-3 px-4 py-1.5 ${place === chosen ? "border-mark bg-band" : "border-transparent"}`}
          >
            <span className="w-24 shrink-0 text-small text-quiet">{line.kind}</span>
            <span className="min-w-0">
              {line.words}
              {line.detail && <span className="text-note text-quiet"> · {line.detail}</span>}
            </span>
          </li>
        ))}
      </ul>
      <p role="status" className="border-t border-line px-4 py-1.5 text-small text-quiet">
        {names.isError
          ? names.error.message
          : lines.length
            ? "↑ ↓ to choose, Enter to go, Escape to leave"
            : names.isFetching || asked !== text.trim()
              ? "Looking …"
              : "Nothing has these words in its name."}
      </p>
    </dialog>
  );
}
