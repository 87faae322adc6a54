import type { Shapes } from "../../../api/client";
import { bare } from "../../../marks/words";
import { unitApart, warmthUnit } from "../../../design/writing";

type Landing = Shapes["LandingShape"];

const BOUNDS: Record<string, string> = { about: "about ", over: "over ", under: "under " };

/** One reading as it was understood: "53.5 ± 1.5 °C", "over 200 fps", "crashed". */
export function readingWords(landing: Landing, unit: string, outcomes: Record<string, string>): string {
  if (landing.missing) return landing.missing;
  if (landing.value === null) {
    const said = [landing.reason, landing.action, landing.fallback && `instead: ${landing.fallback}`];
    const told = said.filter(Boolean).join("; ");
    return `${outcomes[landing.outcome] ?? landing.outcome}${told && ` (${told})`}`;
  }
  const half = landing.half_width ? ` ± ${bare(landing.half_width, unitApart(unit), 2)}` : "";
  const digits = landing.value >= 100 ? 4 : 3;
  return `${BOUNDS[landing.bound] ?? ""}${bare(landing.value, unit, digits)}${half} ${warmthUnit(unit)}`.trim();
}

/** Where it goes. */
export function landingWords(landing: Landing): string {
  if (landing.missing) return "noted, no pass";
  if (!landing.new) return `onto pass ${landing.number}`;
  return landing.settles ? `pass ${landing.number}, which is owed` : `pass ${landing.number}`;
}
