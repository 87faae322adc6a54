import { api, body, Problem, type Shapes, type VerdictShape } from "../../api/client";

type Raw = VerdictShape["uses"][number];
type Judged = NonNullable<Raw["judged"]>[number];
/** A use with everything that the server fills in. */
export type Use = Required<Omit<Raw, "judged" | "conditions">> & {
  judged: Required<Judged>[];
  conditions: Required<NonNullable<Raw["conditions"]>>;
};
export type Sentence = VerdictShape["sentences"][number];
export type Call = Use["judged"][number]["call"];

export const CALLS: Call[] = ["advised", "acceptable", "not advised", "not judged"];
export const OUTCOMES = ["", "worth it", "not worth it", "cannot be told"] as const;

/** The calls as they stand before seals. */
export const CALL_WORDS: Record<Call, string> = {
  advised: "take",
  acceptable: "also good",
  "not advised": "not",
  "not judged": "not judged:",
};

/** A verdict with each use as a field of its own, so that two people can edit two uses at once. */
export type Fields = Record<string, unknown> & { id: number; version: number };

export const usesIn = (verdict: VerdictShape) => verdict.uses as Use[];

export const USE = "use:";

export function fieldsOf(review: number, verdict: VerdictShape): Fields {
  return {
    id: review,
    version: verdict.version,
    answer: verdict.answer,
    ...Object.fromEntries(verdict.uses.map((use) => [USE + use.key, use])),
  };
}

/** The uses of some fields, in their order; one that was taken away is null. */
export function usesOf(fields: Record<string, unknown>): Use[] {
  return Object.entries(fields).flatMap(([name, value]) =>
    name.startsWith(USE) && value ? [value as Use] : [],
  );
}

/** Stores changed fields of a verdict on the version they were made on; `known` tells the fields of that version. */
export async function storeFields(
  review: number,
  known: Fields,
  version: number,
  changes: Partial<Fields>,
): Promise<VerdictShape> {
  const next = { ...known, ...changes };
  const sent = {
    ...("answer" in changes ? { answer: String(next.answer) } : {}),
    ...(Object.keys(changes).some((name) => name.startsWith(USE)) ? { uses: usesOf(next) } : {}),
  };
  return body(
    await api.PATCH("/api/reviews/{review}/verdict", {
      params: { path: { review }, header: { "If-Match": `"v${version}"` } },
      body: sent as never,
    }),
  );
}

/** What others have made of it meanwhile, where a refusal tells. */
export function theirsOf(error: unknown): VerdictShape | null {
  return error instanceof Problem && error.status === 412
    ? (error.members.current as VerdictShape | null)
    : null;
}

export async function checkText(
  review: number,
  answer: string,
  uses: Use[],
): Promise<Shapes["CheckShape"]["sentences"]> {
  const path = { review };
  const found = await api.POST("/api/reviews/{review}/verdict/check", {
    params: { path },
    body: { answer, uses } as never,
  });
  return body(found).sentences;
}

/** A text cut at its marks: plain stretches, and findings by their numbers. */
export function pieces(
  text: string,
): ({ words: string } | { number: number; what: "" | "amount" | "interval" })[] {
  const made: ReturnType<typeof pieces> = [];
  let at = 0;
  for (const mark of text.matchAll(/\[(\d{1,4})(?: (amount|interval))?\]/g)) {
    if (mark.index > at) made.push({ words: text.slice(at, mark.index) });
    made.push({ number: Number(mark[1]), what: (mark[2] ?? "") as "" | "amount" | "interval" });
    at = mark.index + mark[0].length;
  }
  if (at < text.length) made.push({ words: text.slice(at) });
  return made;
}
