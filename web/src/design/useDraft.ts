import { useCallback, useMemo, useSyncExternalStore } from "react";

const PREFIX = "draft:";
const listeners = new Set<() => void>();
// What a browser that keeps nothing, or a page drawn elsewhere, holds all the same.
const held = new Map<string, string>();

/**
 * State that outlives the page: what somebody had typed and not stored comes back when the form is opened again, and all
 * that show it see the same. `drop` forgets it once it is stored, or thrown away on purpose.
 */
export function useDraft<T>(key: string, initial: T): [T, (next: T) => void, () => void] {
  const text = useSyncExternalStore(
    subscribe,
    () => kept(key),
    () => kept(key),
  );
  const value = useMemo(() => parsed(text, initial), [text, initial]);
  const change = useCallback(
    (next: T) => {
      keep(key, JSON.stringify(next));
    },
    [key],
  );
  const drop = useCallback(() => keep(key, null), [key]);
  return [value, change, drop];
}

/** How many texts were typed and not stored. */
export function draftsHeld(): number {
  return draftKeys().length;
}

/** Throws away all that was typed and not stored. */
export function dropDrafts(): void {
  for (const key of draftKeys()) keep(key, null);
}

function draftKeys(): string[] {
  const keys = new Set(held.keys());
  try {
    for (const key of Object.keys(localStorage))
      if (key.startsWith(PREFIX)) keys.add(key.slice(PREFIX.length));
  } catch {
    // A browser that keeps nothing.
  }
  return [...keys];
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

function kept(key: string): string | null {
  const here = held.get(key);
  if (here !== undefined) return here;
  try {
    return localStorage.getItem(PREFIX + key);
  } catch {
    return null;
  }
}

function keep(key: string, text: string | null): void {
  if (text === null) held.delete(key);
  else held.set(key, text);
  try {
    if (text === null) localStorage.removeItem(PREFIX + key);
    else localStorage.setItem(PREFIX + key, text);
  } catch {
    // It is held as long as the page is.
  }
  listeners.forEach((listener) => listener());
}

function parsed<T>(text: string | null, initial: T): T {
  if (text === null) return initial;
  try {
    return JSON.parse(text) as T;
  } catch {
    return initial;
  }
}
