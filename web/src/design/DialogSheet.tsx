import { Dialog as Radix } from "radix-ui";
import type { Sheet } from "./Dialog";

/** A dialog that is open. Escape and a click outside close it; focus goes back to where it was. On paper it stands
 * alone. */
export function DialogSheet({ onClose, title, children, wide = false, size }: Sheet) {
  return (
    <Radix.Root open onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="no-print fixed inset-0 z-40 bg-bar/50" />
        <Radix.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[85vh] w-[92vw] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-ink bg-sheet p-5 print:static print:max-h-none print:w-full print:max-w-none print:translate-0 print:overflow-visible print:border-0 print:p-0 ${size ? "max-w-[1180px]" : wide ? "max-w-[720px]" : "max-w-[480px]"}`}
        >
          <Radix.Title className="mb-3 pr-8 font-serif text-lead font-semibold">{title}</Radix.Title>
          {children}
          <Radix.Close aria-label="Dismiss" className="no-print absolute top-4 right-4 px-1.5 hover:bg-band">
            ×
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
