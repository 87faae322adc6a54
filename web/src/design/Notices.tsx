import { createContext, useCallback, useContext, useMemo, useRef, useState, type ReactNode } from "react";

interface Notice {
  id: number;
  words: string;
  bad: boolean;
  undo?: () => void;
}

interface Telling {
  tell: (words: string, undo?: () => void) => void;
  warn: (words: string) => void;
}

const Context = createContext<Telling>({ tell: () => undefined, warn: () => undefined });

const SHOWN_MS = 9000;

/** Tells what has just happened, with a way back where there is one. */
export function useNotices(): Telling {
  return useContext(Context);
}

export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const next = useRef(1);
  const drop = useCallback((id: number) => setNotices((all) => all.filter((n) => n.id !== id)), []);
  const add = useCallback(
    (words: string, bad: boolean, undo?: () => void) => {
      const id = next.current++;
      setNotices((all) => [...all.slice(-2), { id, words, bad, undo }]);
      if (!bad) window.setTimeout(() => drop(id), SHOWN_MS);
    },
    [drop],
  );
  const telling = useMemo<Telling>(
    () => ({ tell: (words, undo) => add(words, false, undo), warn: (words) => add(words, true) }),
    [add],
  );
  return (
    <Context.Provider value={telling}>
      {children}
      <div
        className="no-print fixed right-5 bottom-5 z-50 flex w-96 max-w-[calc(100vw-2.5rem)] flex-col gap-2"
        role="status"
        aria-live="polite"
      >
        {notices.map((notice) => (
          <div
            key={notice.id}
            className={`flex items-start justify-between gap-3 border bg-sheet px-3 py-2 text-note ${notice.bad ? "border-mark" : "border-ink"}`}
          >
            <span>{notice.words}</span>
            <span className="flex gap-3">
              {notice.undo && (
                <button
                  type="button"
                  className="underline"
                  onClick={() => {
                    notice.undo?.();
                    drop(notice.id);
                  }}
                >
                  Undo
                </button>
              )}
              <button type="button" aria-label="Close this notice" onClick={() => drop(notice.id)}>
                ×
              </button>
            </span>
          </div>
        ))}
      </div>
    </Context.Provider>
  );
}
