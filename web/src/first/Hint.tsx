import { usePreferences } from "../api/preferences";
import { Button } from "../design/Button";
import { useNotices } from "../design/Notices";
import { HINTS, type HintName } from "./hints";

/** What a sheet is for and the keys that matter on it, until it has been put away. */
export function Hint({ name }: { name: HintName }) {
  const { preferences, set } = usePreferences();
  const { warn } = useNotices();
  // Who is led through a first review is told what matters there.
  if (!preferences || preferences.first_review !== null || preferences.hints_read.includes(name)) return null;
  const { title, words, keys } = HINTS[name];
  const away = () => set({ hints_read: [name] }).catch((error: Error) => warn(error.message));
  return (
    <section
      aria-label="What this sheet is for"
      className="mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-1 border border-dashed border-ink bg-sheet px-3 py-1.5 text-note print:hidden"
    >
      <p className="max-w-prose">
        <strong>{title}</strong> {words}
      </p>
      <dl className="flex flex-wrap gap-x-4">
        {keys.map(([key, what]) => (
          <div key={key} className="flex gap-1.5">
            <dt>
              <kbd className="border border-line px-1 font-sans font-semibold">{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <Button kind="link" className="ml-auto" onClick={() => void away()}>
        put away
      </Button>
    </section>
  );
}
