import { useEffect, useRef, type ClipboardEvent, type KeyboardEvent } from "react";
import type { Ledger } from "./useLedger";

interface Props {
  ledger: Ledger;
  label: string;
  onBlock: (text: string) => void;
}

/** The cell that is typed into. Enter goes down, Tab to the right, Escape leaves it as it was. */
export function LedgerInput({ ledger, label, onBlock }: Props) {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    input.current?.focus();
  }, []);
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === "Escape") ledger.leave();
    else if (event.key === "Enter") ledger.commit("down");
    else if (event.key === "Tab") ledger.commit(event.shiftKey ? "left" : "right");
    else return;
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent) => {
    const pasted = event.clipboardData.getData("text/plain");
    if (/[\t\n]/.test(pasted.trim())) {
      event.preventDefault();
      onBlock(pasted);
    }
  };
  const wrong = Boolean(ledger.looked?.error || ledger.problem);
  return (
    <input
      ref={input}
      aria-label={label}
      aria-invalid={wrong}
      aria-describedby="ledger-strip"
      value={ledger.text}
      onChange={(event) => ledger.type(event.target.value)}
      onKeyDown={onKey}
      onPaste={onPaste}
      onClick={(event) => event.stopPropagation()}
      className={`w-full border-b-2 bg-transparent py-0.5 text-lead outline-none ${wrong ? "border-mark" : "border-ink"}`}
    />
  );
}
