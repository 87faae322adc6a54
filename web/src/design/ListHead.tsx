import type { ReactNode } from "react";
import { Button } from "./Button";

interface Props {
  title: string;
  /** What adds one, and how it is called; without the act its button is left out. */
  adds?: string;
  onAdd?: () => void;
  children?: ReactNode;
}

/** The head of a place that lists things: its name, and the act that adds one. */
export function ListHead({ title, adds, onAdd, children }: Props) {
  return (
    <div className="mb-3 flex items-center justify-between gap-3">
      <h1 className="font-serif text-title font-semibold">{title}</h1>
      <span className="flex gap-3">
        {children}
        {onAdd && (
          <Button kind="strong" onClick={onAdd}>
            {adds}
          </Button>
        )}
      </span>
    </div>
  );
}
