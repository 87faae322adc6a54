const LATEST_MS = 3000;

/** Does something once the browser has nothing better to do; returns how to take it back. */
export function whenIdle(work: () => void): () => void {
  const asked = window.requestIdleCallback(work, { timeout: LATEST_MS });
  return () => window.cancelIdleCallback(asked);
}
