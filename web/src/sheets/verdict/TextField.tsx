import { useEffect, useId, useRef, useState, type KeyboardEvent } from "react";
import { useReview } from "../../api/review";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";
import type { Finding } from "../findings/listed";
import { usePins } from "../findings/usePins";
import { checkText, type Sentence, type Use } from "./verdict";

interface Props {
  use: Use;
  byKey: Map<string, Finding>;
}

// A pause in writing after which the text is checked.
const PAUSE_MS = 400;
const MOST_OFFERED = 8;
const SIGNS: Record<string, string> = {
  contradicted: "✕",
  further: "▸",
  unsettled: "○",
  sourceless: "◇",
  backed: "◆",
};

/** The text of a use. "[" offers the findings; what is written is checked after a pause. */
export function TextField({ use, byKey }: Props) {
  const review = useReview();
  const area = useRef<HTMLTextAreaElement>(null);
  const list = useId();
  const pins = usePins([...byKey.values()]);
  const { warn } = useNotices();
  const [text, setText] = useState(use.text);
  const [open, setOpen] = useState<{ from: number; typed: string } | null>(null);
  const [at, setAt] = useState(0);
  const [checked, setChecked] = useState<Sentence[]>([]);
  useEffect(() => {
    let late = false;
    const timer = window.setTimeout(() => {
      if (!text.trim()) return setChecked([]);
      checkText(review.id, "", [{ ...use, text }])
        .then((found) => !late && setChecked(found))
        .catch(() => !late && setChecked([]));
    }, PAUSE_MS);
    return () => {
      late = true;
      window.clearTimeout(timer);
    };
  }, [text, review.id, use]);
  const offered = open ? matching([...byKey.values()], open.typed) : [];
  const changed = () => {
    const { value, selectionStart } = area.current ?? { value: "", selectionStart: 0 };
    setText(value);
    const before = /\[([^[\]\n]*)$/.exec(value.slice(0, selectionStart));
    setOpen(before ? { from: before.index, typed: before[1] ?? "" } : null);
    setAt(0);
  };
  const put = async (finding: Finding, what: "" | " amount") => {
    const field = area.current;
    if (!field || !open) return;
    let number = finding.pin?.number;
    if (number === undefined) {
      const pinned = (await pins.toggle(finding)) as { findings?: Finding[] } | undefined;
      number = pinned?.findings?.find((one) => one.key === finding.key)?.pin?.number;
    }
    if (number === undefined) return warn("The finding could not be pinned; try again.");
    field.focus();
    field.setRangeText(`[${number}${what}]`, open.from, field.selectionStart, "end");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const onKey = (event: KeyboardEvent) => {
    if (!open || !offered.length) return;
    const chosen = offered[at];
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      setAt((at + (event.key === "ArrowDown" ? 1 : offered.length - 1)) % offered.length);
    } else if ((event.key === "Enter" || event.key === "Tab") && chosen) {
      event.preventDefault();
      void put(chosen, event.shiftKey ? " amount" : "");
    } else if (event.key === "Escape") {
      event.preventDefault();
      event.stopPropagation();
      setOpen(null);
    }
  };
  return (
    <div className="relative">
      <Field
        label="Text"
        hint="An empty line begins a new paragraph. Type [ to put a finding in; with Shift+Enter its amount, which follows it."
      >
        <textarea
          ref={area}
          name="text"
          rows={8}
          defaultValue={use.text}
          autoFocus
          role="combobox"
          aria-expanded={offered.length > 0}
          aria-controls={list}
          aria-activedescendant={offered.length ? `${list}-${at}` : undefined}
          aria-autocomplete="list"
          className="font-serif text-lead"
          onInput={changed}
          onKeyDown={onKey}
          onBlur={() => window.setTimeout(() => setOpen(null), 150)}
        />
      </Field>
      {offered.length > 0 && (
        <ul
          id={list}
          role="listbox"
          aria-label="Findings"
          className="absolute z-20 -mt-2 max-h-72 w-full overflow-auto border border-ink bg-sheet"
        >
          {offered.map((one, place) => (
            <li
              key={one.key}
              id={`${list}-${place}`}
              role="option"
              aria-selected={place === at}
              onMouseDown={(event) => {
                event.preventDefault();
                void put(one, event.shiftKey ? " amount" : "");
              }}
              className={`cursor-pointer px-2 py-1 text-note ${place === at ? "bg-band" : ""}`}
            >
              <span className={one.pin ? "text-mark" : "text-quiet"}>
                {one.pin ? `◆ ${one.pin.number}` : "◇"}
              </span>{" "}
              {one.sentence} <span className="text-quiet">{one.kind_words}</span>
            </li>
          ))}
        </ul>
      )}
      <ul aria-label="Checked as you write" aria-live="polite" className="mb-3 text-small">
        {checked
          .filter((one) => one.status !== "nothing" && one.status !== "judgement")
          .map((one, place) => (
            <li key={`${place} ${one.text}`} className="flex gap-2 py-0.5">
              <span aria-hidden="true" className="w-3">
                {SIGNS[one.status]}
              </span>
              <span>
                <span className="text-quiet">
                  “{one.text.slice(0, 60)}
                  {one.text.length > 60 ? " …" : ""}”
                </span>{" "}
                {[one.status === "backed" ? "" : one.status_words, ...one.says].filter(Boolean).join(": ")}
              </span>
            </li>
          ))}
      </ul>
    </div>
  );
}

/** Findings that fit what is typed, the pinned ones first. */
function matching(all: Finding[], typed: string): Finding[] {
  const wanted = typed.trim().toLowerCase();
  const words = wanted.split(/\s+/);
  return all
    .filter(
      (one) =>
        !wanted ||
        String(one.pin?.number ?? "") === wanted ||
        words.every((word) => `${one.sentence} ${one.kind_words}`.toLowerCase().includes(word)),
    )
    .sort((a, b) => (a.pin?.number ?? 1e6) - (b.pin?.number ?? 1e6))
    .slice(0, MOST_OFFERED);
}
