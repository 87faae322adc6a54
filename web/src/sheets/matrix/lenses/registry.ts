import { economy } from "./economy";
import { figures } from "./figures";
import type { LensObject } from "./lens";
import { limits } from "./limits";
import { progress } from "./progress";
import { versus } from "./versus";

/** The lenses in the order of their digits. */
export const LENSES: readonly LensObject[] = [progress, figures, versus, limits, economy];

/** Versus, what is opened where the address names no other. */
const USUAL = versus;

export function lensOf(key: string | null): LensObject {
  return LENSES.find((lens) => lens.key === key) ?? USUAL;
}
