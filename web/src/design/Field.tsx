import type { ReactNode } from "react";

/** A labelled field; the input, text area or select inside takes our dress. */
export function Field({ label, hint, children }: { label: string; hint?: string; children: ReactNode }) {
  return (
    <label className="mb-3 block text-note [&_input]:block [&_input]:w-full [&_input]:border [&_input]:border-ink [&_input]:bg-sheet [&_input]:px-2 [&_input]:py-1 [&_input]:text-body [&_select]:block [&_select]:w-full [&_select]:border [&_select]:border-ink [&_select]:bg-sheet [&_select]:px-2 [&_select]:py-1 [&_select]:text-body [&_textarea]:block [&_textarea]:w-full [&_textarea]:border [&_textarea]:border-ink [&_textarea]:bg-sheet [&_textarea]:px-2 [&_textarea]:py-1 [&_textarea]:text-body">
      <span className="mb-0.5 block font-semibold">{label}</span>
      {children}
      {hint && <span className="mt-0.5 block text-quiet">{hint}</span>}
    </label>
  );
}
