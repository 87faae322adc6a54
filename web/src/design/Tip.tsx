import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";

/** Words that show on hover and focus. What they say must also be reachable otherwise. */
export function Tip({ words, children }: { words: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          className="z-50 max-w-80 border border-ink bg-sheet px-2 py-1 text-note"
        >
          {words}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
