import { Slot } from "radix-ui";
import { useState, type KeyboardEvent, type MouseEvent, type ReactNode } from "react";
import { later } from "./later";

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

export const OpenMenu = later(
  () => import("./OpenMenu").then((m) => m.OpenMenu),
  (behind: Behind & { byKey: boolean }) => <Shut {...behind} onAsk={() => undefined} />,
);

/** A menu behind any element. A list has hundreds: until it is asked for, one is a button and no more. */
export function Menu(behind: Behind) {
  const [asked, setAsked] = useState<"key" | "mouse" | null>(null);
  return asked ? <OpenMenu {...behind} byKey={asked === "key"} /> : <Shut {...behind} onAsk={setAsked} />;
}

function Shut({ trigger, label, onAsk }: Behind & { onAsk: (by: "key" | "mouse") => void }) {
  const arrow = (event: KeyboardEvent) => {
    if (event.key !== "ArrowDown") return;
    event.preventDefault();
    onAsk("key");
  };
  return (
    <Slot.Root
      aria-label={label}
      aria-haspopup="menu"
      aria-expanded={false}
      onClick={(event: MouseEvent) => onAsk(event.detail ? "mouse" : "key")}
      onKeyDown={arrow}
    >
      {trigger}
    </Slot.Root>
  );
}
