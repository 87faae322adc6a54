import { queryOptions } from "@tanstack/react-query";
import { api, body } from "./client";

export const standingsQuery = queryOptions({
  queryKey: ["standings"],
  queryFn: async () => body(await api.GET("/api/standings")),
  refetchInterval: (query) => (query.state.data?.waiting ? 3000 : false),
});

const CHOICE = [
  "settings",
  "metric",
  "against",
  "words",
  "system",
  "since",
  "until",
  "having",
  "basis",
  "prices",
] as const;

/** What of a standing's address the server is asked for. */
function choiceOf(params: URLSearchParams) {
  const told = Object.fromEntries(
    CHOICE.flatMap((name) => (params.get(name) ? [[name, params.get(name) ?? ""]] : [])),
  );
  return { ...told, ...(params.get("offset") ? { offset: Number(params.get("offset")) } : {}) };
}

export const standingQuery = (workload: string, params: URLSearchParams) =>
  queryOptions({
    queryKey: ["standings", workload, choiceOf(params)],
    queryFn: async () =>
      body(
        await api.GET("/api/standings/{workload_key}", {
          params: { path: { workload_key: workload }, query: choiceOf(params) },
        }),
      ),
    placeholderData: (before) => before,
    // What is being worked out joins without being asked for.
    refetchInterval: (query) => (query.state.data?.waiting ? 3000 : false),
  });

/** In what the results of a standing differ. */
export const factsQuery = (workload: string, params: URLSearchParams) =>
  queryOptions({
    queryKey: ["standings", workload, "facts", choiceOf(params)],
    queryFn: async () =>
      body(
        await api.GET("/api/standings/{workload_key}/facts", {
          params: { path: { workload_key: workload }, query: choiceOf(params) },
        }),
      ),
    placeholderData: (before) => before,
  });

export const overTimeQuery = (workload: string, params: URLSearchParams) =>
  queryOptions({
    queryKey: ["standings", workload, "over time", choiceOf(params)],
    queryFn: async () =>
      body(
        await api.GET("/api/standings/{workload_key}/over-time", {
          params: { path: { workload_key: workload }, query: choiceOf(params) },
        }),
      ),
    placeholderData: (before) => before,
  });

export const followUpsQuery = (about: { review?: number; system?: number; ended?: boolean } = {}) =>
  queryOptions({
    queryKey: ["follow-ups", about],
    queryFn: async () => body(await api.GET("/api/follow-ups", { params: { query: about } })),
  });

/** Who can see to a follow-up. */
export const seeToItQuery = queryOptions({
  queryKey: ["follow-ups", "people"],
  queryFn: async () => body(await api.GET("/api/follow-ups/people")),
});

/** Where one's own calendar reads them. */
export const calendarQuery = queryOptions({
  queryKey: ["follow-ups", "calendar"],
  queryFn: async () => body(await api.GET("/api/account/calendar")),
});

export const measuredBeforeQuery = (review: number) =>
  queryOptions({
    queryKey: ["standings", "measured before", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/measured-before", { params: { path: { review } } })),
    refetchInterval: (query) => (query.state.data?.waiting ? 3000 : false),
  });

/** What stands beside a review from others, against one of its configurations. */
export const referencesQuery = (review: number, baseline: number | null = null) =>
  queryOptions({
    queryKey: ["references", review, baseline],
    queryFn: async () =>
      body(
        await api.GET("/api/reviews/{review}/references", {
          params: { path: { review }, query: baseline === null ? {} : { baseline } },
        }),
      ),
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.data?.waiting ? 3000 : false),
  });

/** Earlier results that would fit beside the tests of a review. */
export const offersQuery = (review: number) =>
  queryOptions({
    queryKey: ["references", review, "offers"],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/reference-offers", { params: { path: { review } } })),
  });

export const bookQuery = (system: number) =>
  queryOptions({
    queryKey: ["system-log", "book", system],
    queryFn: async () => body(await api.GET("/api/systems/{system}/book", { params: { path: { system } } })),
  });

export const watchItemsQuery = (system: number) =>
  queryOptions({
    queryKey: ["follow-ups", "watched", system],
    queryFn: async () =>
      body(await api.GET("/api/systems/{system}/watch-items", { params: { path: { system } } })),
  });

/** What is watched on the machines of a review. */
export const watchedInQuery = (review: number) =>
  queryOptions({
    queryKey: ["follow-ups", "watched in", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/watch-items", { params: { path: { review } } })),
  });

/** The sets of tests that the team keeps, the last edition of each. */
export const setsQuery = queryOptions({
  queryKey: ["standings", "sets"],
  queryFn: async () => body(await api.GET("/api/test-sets")),
});

export const setQuery = (id: number, against: number | null, offset: number) =>
  queryOptions({
    queryKey: ["standings", "sets", id, against, offset],
    queryFn: async () =>
      body(
        await api.GET("/api/test-sets/{test_set}", {
          params: {
            path: { test_set: id },
            query: { ...(against === null ? {} : { against }), ...(offset ? { offset } : {}) },
          },
        }),
      ),
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.data?.waiting ? 3000 : false),
  });

/** Standings that somebody has saved under a name. */
export const savedQuery = queryOptions({
  queryKey: ["standings", "saved"],
  queryFn: async () => body(await api.GET("/api/saved-standings")),
});

/** Configurations of a review that were changed while passes of them are owed. */
export const splitsQuery = (review: number) =>
  queryOptions({
    queryKey: ["docket", review, "splits"],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/splits", { params: { path: { review } } })),
  });

/** What has changed since the review that one is a copy of. */
export const copiedQuery = (review: number) =>
  queryOptions({
    queryKey: ["plan", review, "copied"],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/copied", { params: { path: { review } } })),
  });
