import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import { TERMS, type TermName } from "./terms";

/** A word that is explained on hover and on focus; the same words stand under `?`. */
export function Term({ name, children }: { name: TermName; children?: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={300}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <button
            type="button"
            className="cursor-help underline decoration-quiet decoration-dotted underline-offset-3"
          >
            {children ?? name}
          </button>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            className="z-50 max-w-72 border border-ink bg-sheet px-2.5 py-1.5 text-note text-ink"
          >
            {TERMS[name]}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
