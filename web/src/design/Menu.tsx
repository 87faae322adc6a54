import { Slot } from "radix-ui";
import { lazy, Suspense, useState, type KeyboardEvent, type MouseEvent, type ReactNode } from "react";

interface Item {
  label: string;
  act: () => void;
  disabled?: boolean;
}

export interface Behind {
  trigger: ReactNode;
  items: Item[];
  /** Its name where what it shows does not name it. */
  label?: string;
}

export const loadMenu = () => import("./OpenMenu");
const OpenMenu = lazy(() => loadMenu().then((m) => ({ default: m.OpenMenu })));

/** A menu behind any element. A list has hundreds: until it is asked for, one is a button and no more. */
export function Menu(behind: Behind) {
  const [asked, setAsked] = useState<"key" | "mouse" | null>(null);
  const arrow = (event: KeyboardEvent) => {
    if (event.key !== "ArrowDown") return;
    event.preventDefault();
    setAsked("key");
  };
  const button = (
    <Slot.Root
      aria-label={behind.label}
      aria-haspopup="menu"
      aria-expanded={false}
      onClick={(event: MouseEvent) => setAsked(event.detail ? "mouse" : "key")}
      onKeyDown={arrow}
    >
      {behind.trigger}
    </Slot.Root>
  );
  if (!asked) return button;
  return (
    <Suspense fallback={button}>
      <OpenMenu {...behind} byKey={asked === "key"} />
    </Suspense>
  );
}
