import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNotices } from "./Notices";

interface Telling<T> {
  /** Said when it is done. */
  said?: string;
  /** The way back, given what the act answered. */
  undo?: (result: T) => Promise<unknown>;
  /** First members of the query keys that are out of date afterwards. */
  stale?: string[];
}

/** Runs an act: tells what was done with a way back, or why it was not, and reads anew what it has changed. */
export function useAct() {
  const client = useQueryClient();
  const { tell, warn } = useNotices();
  return useCallback(
    async <T>(
      work: () => Promise<T>,
      { said, undo, stale = [] }: Telling<T> = {},
    ): Promise<T | undefined> => {
      const refresh = () => Promise.all(stale.map((key) => client.invalidateQueries({ queryKey: [key] })));
      try {
        const result = await work();
        void refresh();
        if (said) {
          tell(
            said,
            undo &&
              (() =>
                void undo(result)
                  .then(refresh)
                  .catch((error: Error) => warn(error.message))),
          );
        }
        return result;
      } catch (error) {
        warn((error as Error).message);
        return undefined;
      }
    },
    [client, tell, warn],
  );
}
