import { DropdownMenu } from "radix-ui";
import { useEffect, useRef } from "react";
import type { Behind } from "./Menu";

/** A menu that was asked for, open at first; whoever asked by a key is on its first item then. */
export function OpenMenu({ trigger, items, label, byKey }: Behind & { byKey: boolean }) {
  const first = useRef<HTMLDivElement | null>(null);
  useEffect(() => {
    if (!byKey) return undefined;
    // It comes into the page after the menu takes the focus itself.
    const soon = requestAnimationFrame(() => first.current?.focus());
    return () => cancelAnimationFrame(soon);
  }, [byKey]);
  const enabled = items.find((item) => !item.disabled);
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger asChild aria-label={label}>
        {trigger}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          collisionPadding={8}
          className="z-50 max-h-[min(60vh,var(--radix-dropdown-menu-content-available-height))] min-w-48 overflow-auto border border-ink bg-sheet py-1 text-note"
        >
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.label}
              ref={item === enabled ? first : undefined}
              disabled={item.disabled}
              onSelect={item.act}
              className="cursor-pointer px-3 py-1 outline-none data-disabled:cursor-not-allowed data-disabled:text-quiet data-highlighted:bg-band"
            >
              {item.label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
