import type { ReactNode } from "react";
import { later } from "./later";

export interface Sheet {
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
  /** As wide as the page, for pictures. */
  size?: "full";
}

export const DialogSheet = later(() => import("./DialogSheet").then((m) => m.DialogSheet));

/** A dialog on a plain sheet; what it takes is loaded once one is opened, or when the page has time for it. */
export function Dialog({ open, ...sheet }: Sheet & { open: boolean }) {
  return open ? <DialogSheet {...sheet} /> : null;
}
