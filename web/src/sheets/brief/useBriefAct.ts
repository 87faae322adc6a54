import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { act } from "../../api/acts";
import type { ReviewShape } from "../../api/client";
import { keys } from "../../api/queries";
import { useAct } from "../../design/useAct";

/** Acts on a review that answer with the review as it is then. */
export function useBriefAct(review: ReviewShape) {
  const client = useQueryClient();
  const run = useAct();
  return useCallback(
    async (
      method: string,
      path: string,
      content?: unknown,
      telling: { said?: string; undo?: (saved: ReviewShape) => Promise<unknown>; tag?: string } = {},
    ): Promise<ReviewShape | undefined> => {
      const saved = await run(
        () => act<ReviewShape>(method, `/api/reviews/${review.id}${path}`, content, telling.tag),
        {
          ...telling,
          made: "review",
        },
      );
      // A pasted table answers with its changes; the review is then read anew, before a form begins with what it was.
      if (saved && "columns" in saved) client.setQueryData(keys.review(review.id), saved);
      else if (saved) await client.refetchQueries({ queryKey: keys.review(review.id) });
      return saved;
    },
    [client, run, review.id],
  );
}

export type BriefAct = ReturnType<typeof useBriefAct>;
