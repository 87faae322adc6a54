import { lazy, Suspense, type ReactNode } from "react";

export interface Sheet {
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
  /** As wide as the page, for pictures. */
  size?: "full";
}

export const loadDialog = () => import("./DialogSheet");
const DialogSheet = lazy(() => loadDialog().then((m) => ({ default: m.DialogSheet })));

/** A dialog on a plain sheet; what it takes is loaded once one is opened, or when the page has time for it. */
export function Dialog({ open, ...sheet }: Sheet & { open: boolean }) {
  if (!open) return null;
  return (
    <Suspense fallback={null}>
      <DialogSheet {...sheet} />
    </Suspense>
  );
}
