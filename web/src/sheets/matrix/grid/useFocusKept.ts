import { useEffect, useRef, type FocusEvent, type RefObject } from "react";

/**
 * Keeps the focus in the grid when the row that held it is taken away.
 *
 * Rows come and go with the lens, with the ledger, and when the matrix folds to those of the open cells. The focus then
 * goes to the same cell, else to another of its test on its column, else to what stands in its place. The returned
 * handlers belong on the table; whoever leaves the grid is let go.
 */
export function useFocusKept(table: RefObject<HTMLTableElement | null>) {
  const held = useRef<HTMLElement | null>(null);
  useEffect(() => {
    const gone = held.current;
    if (!gone || gone.isConnected) return;
    held.current = null;
    const lost = document.activeElement === document.body || document.activeElement === null;
    if (lost && table.current) successor(table.current, gone)?.focus({ preventScroll: true });
  });
  return {
    onFocus: (event: FocusEvent) => {
      held.current = event.target.matches("[data-at]") ? (event.target as HTMLElement) : null;
    },
    onBlur: () => {
      held.current = null;
    },
  };
}

function successor(table: HTMLTableElement, gone: HTMLElement): HTMLElement | null {
  const [test, , column] = (gone.dataset.cell ?? "").split(".");
  const places = [
    `[data-cell="${gone.dataset.cell}"]`,
    `[data-cell^="${test}."][data-cell$=".${column}"]`,
    `[data-at="${gone.dataset.at}"]`,
    "[data-at][tabindex='0']",
  ];
  for (const place of places) {
    const found = table.querySelector<HTMLElement>(place);
    if (found) return found;
  }
  return null;
}
