import { queryOptions, replaceEqualDeep } from "@tanstack/react-query";
import { api, body, type ReviewShape, type TraceShape } from "./client";

/** Keys begin with what they show, so that the live feed can say what is out of date. */
export const keys = {
  session: ["session"] as const,
  reviews: ["reviews"] as const,
  review: (id: number) => ["review", id] as const,
  matrix: (id: number) => ["matrix", id] as const,
  cells: (id: number) => ["cell", id] as const,
  docket: (id: number) => ["docket", id] as const,
  systems: ["systems"] as const,
  system: (id: number) => ["systems", id] as const,
  systemDockets: ["system-docket"] as const,
  systemDocket: (id: number) => ["system-docket", id] as const,
  plan: (id: number) => ["plan", id] as const,
  parts: ["parts"] as const,
  workloads: ["workloads"] as const,
  history: (kind: string, id: number) => ["history", kind, id] as const,
};

export const sessionQuery = queryOptions({
  queryKey: keys.session,
  queryFn: async () => body(await api.GET("/api/session")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const reviewsOf = (archived: boolean) =>
  queryOptions({
    queryKey: [...keys.reviews, archived],
    queryFn: async () => body(await api.GET("/api/reviews", { params: { query: { archived } } })),
  });

export const reviewsQuery = reviewsOf(false);

export const systemsQuery = queryOptions({
  queryKey: keys.systems,
  queryFn: async () => body(await api.GET("/api/systems")),
  refetchInterval: 10_000,
});

export const systemQuery = (system: number) =>
  queryOptions({
    queryKey: keys.system(system),
    queryFn: async () => body(await api.GET("/api/systems/{system}", { params: { path: { system } } })),
  });

export const systemDocketQuery = (system: number) =>
  queryOptions({
    queryKey: keys.systemDocket(system),
    queryFn: async () =>
      body(await api.GET("/api/systems/{system}/docket", { params: { path: { system } } })),
  });

/** The sheet of a pass by hand. */
export const handQuery = (entry: number) =>
  queryOptions({
    queryKey: ["hand", entry],
    queryFn: async () => body(await api.GET("/api/docket/{entry}/hand", { params: { path: { entry } } })),
  });

export const systemLogQuery = (system: number) =>
  queryOptions({
    queryKey: ["system-log", system],
    queryFn: async () => body(await api.GET("/api/systems/{system}/log", { params: { path: { system } } })),
  });

export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: async () => body(await api.GET("/api/catalogue")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** Every setting that is known, with the values that the team has used. */
export const settingsQuery = queryOptions({
  queryKey: [...keys.systems, "settings"],
  queryFn: async () => body(await api.GET("/api/settings")),
});

export const bundlesQuery = queryOptions({
  queryKey: [...keys.systems, "bundles"],
  queryFn: async () => body(await api.GET("/api/bundles")),
});

export const partsQuery = (archived = false) =>
  queryOptions({
    queryKey: [...keys.parts, archived],
    queryFn: async () => body(await api.GET("/api/parts", { params: { query: { archived } } })),
  });

export const workloadsQuery = (archived = false) =>
  queryOptions({
    queryKey: [...keys.workloads, archived],
    queryFn: async () => body(await api.GET("/api/workloads", { params: { query: { archived } } })),
  });

export const historyQuery = (kind: string, object_id: number) =>
  queryOptions({
    queryKey: keys.history(kind, object_id),
    queryFn: async () =>
      body(await api.GET("/api/history/{kind}/{object_id}", { params: { path: { kind, object_id } } })),
  });

export const planQuery = (review: number) =>
  queryOptions({
    queryKey: keys.plan(review),
    queryFn: async () => body(await api.GET("/api/reviews/{review}/plan", { params: { path: { review } } })),
    placeholderData: (before) => before,
  });

export const reviewQuery = (review: number) =>
  queryOptions({
    queryKey: keys.review(review),
    queryFn: async () => body(await api.GET("/api/reviews/{review}", { params: { path: { review } } })),
    structuralSharing: (known, read) => newest(known as ReviewShape | undefined, read as ReviewShape),
  });

/** Of a review as it is known and as it was just read: an answer that one's own edit has overtaken is not taken. */
export function newest(known: ReviewShape | undefined, read: ReviewShape): ReviewShape {
  return known && known.id === read.id && known.version > read.version
    ? known
    : replaceEqualDeep(known, read);
}

export const findingsQuery = (review: number) =>
  queryOptions({
    queryKey: ["findings", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/findings", { params: { path: { review } } })),
    placeholderData: (before) => before,
    // The feed tells when they are done; should it be down, they are asked for again.
    refetchInterval: (query) => (query.state.data?.computing ? 3000 : false),
  });

export const talkQuery = (review: number) =>
  queryOptions({
    queryKey: ["talk", review],
    queryFn: async () => body(await api.GET("/api/reviews/{review}/talk", { params: { path: { review } } })),
  });

export const inboxQuery = queryOptions({
  queryKey: ["inbox"],
  queryFn: async () => body(await api.GET("/api/inbox")),
});

/** Records of others that were brought in. */
export const foreignQuery = queryOptions({
  queryKey: ["foreign"],
  queryFn: async () => body(await api.GET("/api/foreign")),
});

export const tokensQuery = queryOptions({
  queryKey: ["tokens"],
  queryFn: async () => body(await api.GET("/api/tokens")),
});

/** One's own second factor and sessions. */
export const accountQuery = queryOptions({
  queryKey: ["account"],
  queryFn: async () => body(await api.GET("/api/account")),
});

export const peopleQuery = queryOptions({
  queryKey: ["people"],
  queryFn: async () => body(await api.GET("/api/people")),
});

/** How the installation is; looked at again while somebody who looks after it is here. */
export const installationQuery = queryOptions({
  queryKey: ["installation"],
  queryFn: async () => body(await api.GET("/api/installation")),
  refetchInterval: 60_000,
});

/** What raw captures a record could hold. */
export const rawFilesQuery = (review: number) =>
  queryOptions({
    queryKey: ["raw-files", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/raw-files", { params: { path: { review } } })),
  });

/** What the team has agreed on. */
/** Whatever has these words in its name. */
export const findQuery = (words: string) =>
  queryOptions({
    queryKey: ["find", words],
    queryFn: async () => body(await api.GET("/api/find", { params: { query: { words } } })),
    placeholderData: (before) => before,
    staleTime: 10_000,
  });

export const teamQuery = queryOptions({
  queryKey: ["team"],
  queryFn: async () => body(await api.GET("/api/team")),
});

/** What readers of records have sent. */
export const messagesQuery = queryOptions({
  queryKey: ["messages"],
  queryFn: async () => body(await api.GET("/api/messages")),
});

/** The verdict with all that is checked of it. */
export const verdictQuery = (review: number) =>
  queryOptions({
    queryKey: ["verdict", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/verdict", { params: { path: { review } } })),
    placeholderData: (before) => before,
  });

export const metricNotesQuery = (review: number) =>
  queryOptions({
    queryKey: ["metric-notes", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/metric-notes", { params: { path: { review } } })),
  });

export const revisionsQuery = (review: number, before?: number, after?: number) =>
  queryOptions({
    queryKey: ["verdict", review, "revisions", before ?? 0, after ?? 0],
    queryFn: async () =>
      body(
        await api.GET("/api/reviews/{review}/verdict/revisions", {
          params: { path: { review }, query: { ...(before ? { before } : {}), ...(after ? { after } : {}) } },
        }),
      ),
  });

export const laddersQuery = (review: number) =>
  queryOptions({
    queryKey: ["ladders", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/ladders", { params: { path: { review } } })),
  });

export const picturesQuery = (review: number) =>
  queryOptions({
    queryKey: ["pictures", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/pictures", { params: { path: { review } } })),
  });

/** The sensors that the passes of a review have recorded. */
export const sensorsQuery = (review: number) =>
  queryOptions({
    queryKey: ["sensors", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/sensors", { params: { path: { review } } })),
  });

export const matrixQuery = (review: number, baseline: number | null, idle = false) =>
  queryOptions({
    queryKey: [...keys.matrix(review), baseline, idle],
    queryFn: async () =>
      body(
        await api.GET("/api/reviews/{review}/matrix", {
          params: {
            path: { review },
            query: { ...(baseline === null ? {} : { baseline }), ...(idle ? { idle } : {}) },
          },
        }),
      ),
    placeholderData: (before) => before,
  });

export const docketQuery = (review: number) =>
  queryOptions({
    queryKey: keys.docket(review),
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/docket", { params: { path: { review } } })),
  });

export const cellQuery = (review: number, test: number, column: number) =>
  queryOptions({
    queryKey: [...keys.cells(review), test, column],
    queryFn: async () =>
      body(
        await api.GET("/api/reviews/{review}/tests/{test}/columns/{column}", {
          params: { path: { review, test, column } },
        }),
      ),
  });

/** The search of a pass that is in, or of an entry of the docket. */
export const searchQuery = (of: { pass: string } | { entry: number }) =>
  queryOptions({
    queryKey: ["search", of],
    queryFn: async () =>
      "pass" in of
        ? body(await api.GET("/api/passes/{pass_id}/search", { params: { path: { pass_id: of.pass } } }))
        : body(await api.GET("/api/docket/{entry}/search", { params: { path: { entry: of.entry } } })),
  });

export const benchesQuery = queryOptions({
  queryKey: ["benches"],
  queryFn: async () => body(await api.GET("/api/benches")),
});

export const liveQuery = (entry: number) =>
  queryOptions({
    queryKey: ["live", entry],
    queryFn: async () => body(await api.GET("/api/docket/{entry}/live", { params: { path: { entry } } })),
  });

/** Whether workloads are fit as tests, by their passes on record; by workload. */
export const fitnessQuery = queryOptions({
  queryKey: ["fitness"],
  queryFn: async () => body(await api.GET("/api/workloads/fitness")),
  select: (found) => new Map(found.map((one) => [one.workload, one])),
});

export const runningMarksQuery = (entry: number) =>
  queryOptions({
    queryKey: ["marks", entry],
    queryFn: async () => body(await api.GET("/api/docket/{entry}/marks", { params: { path: { entry } } })),
  });

export interface Stretch {
  from: number;
  to: number;
}

/** The trace of a pass; inside a record it is read from the record, which needs no sign-in. */
export const traceQuery = (pass: string, stretch: Stretch | null, record?: string) =>
  queryOptions({
    queryKey: ["trace", pass, stretch, record ?? null],
    queryFn: async (): Promise<TraceShape> => {
      const query = { points: 2400, ...(stretch ?? {}) };
      if (record !== undefined) {
        const params = { path: { slug: record, pass_id: pass }, query };
        return body(await api.GET("/api/records/{slug}/traces/{pass_id}", { params: params as never }));
      }
      return body(
        await api.GET("/api/passes/{pass_id}/trace", { params: { path: { pass_id: pass }, query } }),
      );
    },
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before, query) => (query?.queryKey[1] === pass ? before : undefined),
  });

export const distributionQuery = (pass: string, top: number | null) =>
  queryOptions({
    queryKey: ["distribution", pass, top],
    queryFn: async () =>
      body(
        await api.GET("/api/passes/{pass_id}/distribution", {
          params: { path: { pass_id: pass }, query: top === null ? {} : { top } },
        }),
      ),
  });

export const matchQuery = (pass: string, other: string) =>
  queryOptions({
    queryKey: ["match", pass, other],
    queryFn: async () =>
      body(
        await api.GET("/api/passes/{pass_id}/match/{other}", { params: { path: { pass_id: pass, other } } }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const unlikeQuery = (pass: string, other: string) =>
  queryOptions({
    queryKey: ["unlike", pass, other],
    queryFn: async () =>
      body(
        await api.GET("/api/passes/{pass_id}/unlike/{other}", { params: { path: { pass_id: pass, other } } }),
      ),
  });

export const hypothesesQuery = (review: number) =>
  queryOptions({
    queryKey: ["hypotheses", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/hypotheses", { params: { path: { review } } })),
  });

export const completenessQuery = (review: number) =>
  queryOptions({
    queryKey: ["completeness", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/completeness", { params: { path: { review } } })),
  });

export const pairsQuery = (review: number) =>
  queryOptions({
    queryKey: ["pairs", review],
    queryFn: async () => body(await api.GET("/api/reviews/{review}/pairs", { params: { path: { review } } })),
  });

export const recorderQuery = (review: number) =>
  queryOptions({
    queryKey: ["recorder", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/recorder", { params: { path: { review } } })),
  });

export const enoughQuery = (review: number, quantity: string, reserve: number, idle: boolean) =>
  queryOptions({
    queryKey: ["enough", review, quantity, reserve, idle],
    queryFn: async () =>
      body(
        await api.GET("/api/reviews/{review}/enough", {
          params: { path: { review }, query: { quantity, reserve, idle } },
        }),
      ),
    retry: false,
  });

export const specifiedQuery = (review: number) =>
  queryOptions({
    queryKey: ["specified", review],
    queryFn: async () =>
      body(await api.GET("/api/reviews/{review}/specified", { params: { path: { review } } })),
  });

export const recordQuery = (slug: string) =>
  queryOptions({
    queryKey: ["record", slug],
    queryFn: async () => body(await api.GET("/api/records/{slug}", { params: { path: { slug } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
