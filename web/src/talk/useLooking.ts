import { queryOptions, useQuery } from "@tanstack/react-query";
import { api, body } from "../api/client";

// The server forgets who has not been heard of for 45 s.
const EVERY_MS = 20_000;

/** Says that one looks at a sheet of a review, and tells who else does. */
export function useLooking(review: number, sheet: string) {
  return useQuery({
    queryKey: ["looking", review, sheet],
    queryFn: async () =>
      body(
        await api.PUT("/api/reviews/{review}/looking", {
          params: { path: { review } },
          body: { sheet: sheet as "brief" },
        }),
      ),
    refetchInterval: EVERY_MS,
    retry: false,
  });
}

/** What happened in a review since one was here last. */
export const sinceQuery = (review: number) =>
  queryOptions({
    queryKey: ["since", review],
    queryFn: async () => body(await api.GET("/api/reviews/{review}/since", { params: { path: { review } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
