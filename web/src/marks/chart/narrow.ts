import { useSyncExternalStore } from "react";

const NARROW = "(max-width: 640px)";

function watch(changed: () => void): () => void {
  const query = window.matchMedia(NARROW);
  query.addEventListener("change", changed);
  return () => query.removeEventListener("change", changed);
}

/** Whether the page is as narrow as a phone, so that a chart is drawn for less room and its words stay readable. */
export function useNarrow(): boolean {
  return useSyncExternalStore(
    watch,
    () => window.matchMedia(NARROW).matches,
    () => false,
  );
}
