import { Tabs as Radix } from "radix-ui";
import type { ReactNode } from "react";

interface TabsProps {
  value: string;
  onChange: (value: string) => void;
  className?: string;
  children: ReactNode;
}

/** Several views of one thing, of which one is shown. Holds a `TabList` and the `TabPanel` of the view shown. */
export function Tabs({ value, onChange, className, children }: TabsProps) {
  return (
    <Radix.Root value={value} onValueChange={onChange} className={className}>
      {children}
    </Radix.Root>
  );
}

interface ListProps {
  label: string;
  tabs: readonly { key: string; name: ReactNode }[];
  /** Boxed stand side by side in a frame; lined stand on the line over their panel. */
  look: "boxed" | "lined";
}

const LOOKS = {
  boxed: {
    list: "flex border border-line bg-sheet print:hidden",
    tab: "group border-r border-line px-3 py-1 text-note last:border-r-0 hover:bg-band data-[state=active]:bg-bar data-[state=active]:text-on-bar",
  },
  lined: {
    list: "flex gap-4",
    tab: "-mb-px border-b-2 border-transparent py-0.5 text-note text-quiet hover:text-ink data-[state=active]:border-mark data-[state=active]:font-semibold data-[state=active]:text-ink",
  },
};

/** The views by name; arrows move between them. */
export function TabList({ label, tabs, look }: ListProps) {
  return (
    <Radix.List aria-label={label} className={LOOKS[look].list}>
      {tabs.map((one) => (
        <Radix.Trigger key={one.key} value={one.key} className={LOOKS[look].tab}>
          {one.name}
        </Radix.Trigger>
      ))}
    </Radix.List>
  );
}

/** What the view of that name shows. */
export function TabPanel({
  value,
  className,
  children,
}: {
  value: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    <Radix.Content value={value} tabIndex={-1} className={className}>
      {children}
    </Radix.Content>
  );
}
