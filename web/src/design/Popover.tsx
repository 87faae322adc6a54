import { Popover as Base } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  trigger: ReactNode;
  label: string;
  children: ReactNode;
}

/** More to read behind a word; opened by mouse or keyboard. */
export function Popover({ trigger, label, children }: Props) {
  return (
    <Base.Root>
      <Base.Trigger asChild aria-label={label}>
        {trigger}
      </Base.Trigger>
      <Base.Portal>
        <Base.Content
          align="start"
          collisionPadding={8}
          className="z-50 max-h-[60vh] max-w-96 overflow-auto border border-ink bg-sheet p-2 text-note"
        >
          {children}
        </Base.Content>
      </Base.Portal>
    </Base.Root>
  );
}
