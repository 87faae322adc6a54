import type { QueryClient } from "@tanstack/react-query";

/**
 * What a change makes stale, by the first members of query keys: one table for the live feed and for one's own acts. The
 * kinds are those that the server announces.
 */
export const STALE = {
  // Findings follow by a change of their own, once the server has worked them out.
  pass: [
    "standings",
    "references",
    "matrix",
    "cell",
    "trace",
    "distribution",
    "match",
    "unlike",
    "docket",
    "system-docket",
    "reviews",
    "review",
    "plan",
    "live",
    "benches",
    "search",
    "completeness",
    "pairs",
    "recorder",
    "enough",
    "specified",
    "fitness",
    "hand",
    "system-log",
    "ladders",
    "pictures",
  ],
  marks: ["marks", "cell", "trace", "distribution", "pictures"],
  docket: [
    "matrix",
    "docket",
    "system-docket",
    "reviews",
    "live",
    "benches",
    "search",
    "completeness",
    "hand",
    "ladders",
    "findings",
  ],
  findings: ["findings", "verdict"],
  verdict: ["verdict", "reviews", "history"],
  talk: ["talk", "inbox"],
  references: ["references", "history"],
  standings: ["standings", "history"],
  follow_ups: ["follow-ups", "system-log", "history"],
  foreign: ["foreign"],
  readers: ["messages", "hypotheses"],
  tokens: ["tokens"],
  account: ["account"],
  people: ["people", "security-log"],
  team: ["team", "verdict"],
  docket_of: ["docket", "system-docket", "systems", "review", "plan", "hand", "system-log"],
  hand: ["hand"],
  review: [
    "standings",
    "references",
    "review",
    "reviews",
    "plan",
    "matrix",
    "cell",
    "trace",
    "distribution",
    "docket",
    "system-docket",
    "history",
    "completeness",
    "pairs",
    "recorder",
    "enough",
    "specified",
    "hypotheses",
    "ladders",
    "pictures",
    "findings",
    "verdict",
  ],
  record: ["review", "reviews", "record"],
  looks: ["matrix", "cell", "completeness", "findings", "verdict"],
  hypotheses: ["hypotheses", "completeness", "verdict"],
  imports: ["imports", "matrix", "docket", "system-docket", "reviews", "review"],
  column_maps: ["column-maps"],
  systems: [
    "systems",
    "parts",
    "plan",
    "review",
    "history",
    "docket",
    "system-docket",
    "specified",
    "enough",
    "findings",
  ],
  shelf: [
    "standings",
    "parts",
    "systems",
    "plan",
    "review",
    "history",
    "docket",
    "system-docket",
    "specified",
    "enough",
    "matrix",
    "findings",
  ],
  workloads: [
    "standings",
    "references",
    "metric-notes",
    "workloads",
    "fitness",
    "plan",
    "review",
    "history",
    "docket",
    "system-docket",
    "matrix",
  ],
} as const satisfies Record<string, readonly string[]>;

export type ChangeKind = keyof typeof STALE;

/** Queries whose key names its review second; a change of one review leaves those of the others alone. */
const OF_A_REVIEW: ReadonlySet<string> = new Set([
  "matrix",
  "cell",
  "docket",
  "review",
  "plan",
  "completeness",
  "pairs",
  "recorder",
  "enough",
  "specified",
  "hypotheses",
  "ladders",
  "pictures",
  "findings",
  "verdict",
  "talk",
]);

export function isKind(kind: string): kind is ChangeKind {
  return kind in STALE;
}

/** The query keys that a change makes stale. */
export function staleKeys(kind: ChangeKind, review?: number): (string | number)[][] {
  return STALE[kind].map((first) =>
    review !== undefined && OF_A_REVIEW.has(first) ? [first, review] : [first],
  );
}

export function refresh(client: QueryClient, kind: ChangeKind, review?: number): Promise<unknown> {
  return Promise.all(
    staleKeys(kind, review).map((queryKey) =>
      // Findings may take long; what is under way is not begun anew by every change.
      client.invalidateQueries({ queryKey }, { cancelRefetch: queryKey[0] !== "findings" }),
    ),
  );
}
