import type { Shapes } from "../../api/client";

export type Finding = Shapes["FindingShape"];

/** So many findings of a kind stand in the list of all. */
export const MOST_OF_A_KIND = 5;

/**
 * Findings as they are listed: pinned ones first in their order, the others in that of the server. In the list of all, so
 * many of a kind are shown and the rest told by number; the one that is asked for is always shown.
 */
export function listed(
  findings: Finding[],
  fold: boolean,
  wanted: string,
): { shown: Finding[]; folded: [string, string, number][] } {
  const pinned = findings
    .filter((one) => one.pin)
    .sort((a, b) => (a.pin?.position ?? 0) - (b.pin?.position ?? 0));
  const rest = findings.filter((one) => !one.pin);
  if (!fold) return { shown: [...pinned, ...rest], folded: [] };
  const seen = new Map<string, number>();
  const folded = new Map<string, [string, string, number]>();
  const shown = rest.filter((one) => {
    const before = seen.get(one.kind) ?? 0;
    seen.set(one.kind, before + 1);
    if (before < MOST_OF_A_KIND || one.key === wanted || one.drawn !== null) return true;
    folded.set(one.kind, [one.kind, one.kind_words, (folded.get(one.kind)?.[2] ?? 0) + 1]);
    return false;
  });
  return { shown: [...pinned, ...shown], folded: [...folded.values()] };
}
