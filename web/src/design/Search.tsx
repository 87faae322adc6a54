import type { ReactNode } from "react";

interface Props {
  value: string;
  onChange: (next: string) => void;
  label: string;
  children?: ReactNode;
}

/** One line above a list: search, filters, and how much is left. `/` puts the cursor there. */
export function Search({ value, onChange, label, children }: Props) {
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3 text-note" role="search">
      <input
        type="search"
        aria-label={label}
        placeholder={label}
        value={value}
        data-search
        onChange={(event) => onChange(event.target.value)}
        className="w-64 border border-ink bg-sheet px-2 py-1 text-body placeholder:text-quiet"
      />
      {children}
    </div>
  );
}

/** Whether every word of a search stands somewhere in the texts. */
export function found(search: string, ...texts: (string | undefined | null)[]): boolean {
  const all = texts.join(" ").toLowerCase();
  return search
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}
