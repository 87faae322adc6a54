import { useCallback, useState } from "react";

const PREFIX = "draft:";

/**
 * State that outlives the page: what somebody had typed and not stored comes back when the form is opened again. `drop`
 * forgets it once it is stored, or thrown away on purpose.
 */
export function useDraft<T>(key: string, initial: T): [T, (next: T) => void, () => void] {
  const [value, setValue] = useState<T>(() => kept(key) ?? initial);
  const change = useCallback(
    (next: T) => {
      setValue(next);
      try {
        localStorage.setItem(PREFIX + key, JSON.stringify(next));
      } catch {
        // A browser that keeps nothing still has the page.
      }
    },
    [key],
  );
  const drop = useCallback(() => {
    setValue(initial);
    localStorage.removeItem(PREFIX + key);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what a form begins with does not change under it
  }, [key]);
  return [value, change, drop];
}

function kept<T>(key: string): T | undefined {
  try {
    const text = localStorage.getItem(PREFIX + key);
    return text === null ? undefined : (JSON.parse(text) as T);
  } catch {
    return undefined;
  }
}
