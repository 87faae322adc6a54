import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { refresh, type ChangeKind } from "../api/stale";
import { useNotices } from "./Notices";

interface Telling<T> {
  /** Said when it is done. */
  said?: string;
  /** The way back, given what the act answered. */
  undo?: (result: T) => Promise<unknown>;
  /** What kind of change it is: what that makes stale is read anew. */
  made?: ChangeKind;
}

/** Runs an act: tells what was done with a way back, or why it was not, and reads anew what it has changed. */
export function useAct() {
  const client = useQueryClient();
  const { tell, warn } = useNotices();
  return useCallback(
    async <T>(work: () => Promise<T>, { said, undo, made }: Telling<T> = {}): Promise<T | undefined> => {
      const readAnew = () => (made ? refresh(client, made) : Promise.resolve());
      try {
        const result = await work();
        void readAnew();
        if (said) {
          tell(
            said,
            undo &&
              (() =>
                void undo(result)
                  .then(readAnew)
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
