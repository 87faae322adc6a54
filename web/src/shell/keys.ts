import { useEffect, useRef } from "react";

/**
 * Keys that act while nobody is typing; modifiers other than Shift are left alone. A handler that gives false has not
 * acted, and leaves the key to others.
 */
export function useKeys(handlers: Record<string, (event: KeyboardEvent) => unknown>): void {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, select, [contenteditable], [role=dialog], [role=menu]")) return;
      // A button or link that has the focus takes Enter itself.
      if (event.key === "Enter" && target.closest("a, button, summary")) return;
      const handler = latest.current[event.key];
      if (handler && handler(event) !== false) event.preventDefault();
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, []);
}
