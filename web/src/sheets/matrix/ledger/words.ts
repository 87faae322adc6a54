import type { Shapes } from "../../../api/client";
import { figure } from "../../../marks/words";

type Landing = Shapes["LandingShape"];

export const METHODS = [
  "built-in test's own result",
  "glance at an overlay",
  "read from output",
  "stopwatch",
  "meter",
  "touch or ear",
  "remembered",
] as const;

/** Half-widths that a method usually has, by unit; what is not here is typed by whoever reads. */
export function usualHalfWidth(method: string, unit: string): string {
  if (method === "stopwatch" && unit === "s") return "0.2";
  if (method === "glance at an overlay" && unit === "fps") return "1";
  if (method === "glance at an overlay" && unit === "°C") return "1";
  return method === "remembered" || method === "touch or ear" ? "" : "0";
}

const OUTCOMES: Record<string, string> = {
  did_not_start: "did not start",
  refused: "refused, requirement not met",
  crashed: "crashed",
  hung: "hung",
  visual_faults: "visual faults",
  overloaded: "overloaded",
  stopped: "stopped by the tester",
};

const BOUNDS: Record<string, string> = { about: "about ", over: "over ", under: "under " };

/** One reading as it was understood: "53.5 ± 1.5 °C", "over 200 fps", "crashed". */
export function readingWords(landing: Landing, unit: string): string {
  if (landing.missing) return landing.missing;
  if (landing.value === null) return OUTCOMES[landing.outcome] ?? landing.outcome;
  const half = landing.half_width ? ` ± ${figure(landing.half_width, 2)}` : "";
  const digits = landing.value >= 100 ? 4 : 3;
  return `${BOUNDS[landing.bound] ?? ""}${figure(landing.value, digits)}${half} ${unit}`.trim();
}

/** Where it goes. */
export function landingWords(landing: Landing): string {
  if (landing.missing) return "noted, no pass";
  return landing.new ? `pass ${landing.number}` : `onto pass ${landing.number}`;
}
