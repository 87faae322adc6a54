import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { anchor } from "../help/anchor";
import { TERMS, type TermName } from "./terms";

/** A word that is explained on hover and on focus; it leads to where all of them stand, as they do under `?`. */
export function Term({ name, children }: { name: TermName; children?: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={300}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <Link
            to={`/help/glossary#${anchor(name)}`}
            className="cursor-help underline decoration-quiet decoration-dotted underline-offset-3"
          >
            {children ?? name}
          </Link>
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
