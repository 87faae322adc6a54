import { act } from "../api/acts";
import type { ChangeKind } from "../api/stale";
import { useAct } from "./useAct";

/** The acts of what is kept: archived and brought back with a way back, deleted where nothing rests on it. */
export function useKeeping(path: string, name: string, made: ChangeKind) {
  const run = useAct();
  return {
    archive: (away: boolean) =>
      void run(() => act(away ? "PUT" : "DELETE", `${path}/archived`), {
        said: away ? `${name} is archived.` : `${name} is back.`,
        undo: () => act(away ? "DELETE" : "PUT", `${path}/archived`),
        made,
      }),
    remove: async (onGone: () => void) => {
      const gone = await run(() => act("DELETE", path).then(() => true), {
        said: `${name} is deleted.`,
        made,
      });
      if (gone) onGone();
    },
  };
}
