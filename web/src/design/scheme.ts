import { write, type Writing } from "./writing";

/** How pages are drawn: light or dark, roomy or close; and how numbers and warmth are written in them. */
export interface Dress extends Writing {
  scheme: string;
  density: string;
}

const KEPT = "dress";
const DARK = "(prefers-color-scheme: dark)";
const PLAIN: Dress = { scheme: "system", density: "roomy", numbers: "point", degrees: "C" };
let worn = PLAIN;

/** What was chosen on this machine last. */
export function dressKept(): Dress {
  try {
    return { ...PLAIN, ...(JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Partial<Dress>) };
  } catch {
    return PLAIN;
  }
}

/** Draw pages so from now on. Says whether numbers that are drawn already were written in another way. */
export function dress(chosen: Dress): boolean {
  worn = chosen;
  const dark = chosen.scheme === "dark" || (chosen.scheme === "system" && window.matchMedia(DARK).matches);
  document.documentElement.dataset["scheme"] = dark ? "dark" : "light";
  document.documentElement.dataset["density"] = chosen.density;
  const rewritten = write(chosen);
  try {
    const { scheme, density, numbers, degrees } = chosen;
    localStorage.setItem(KEPT, JSON.stringify({ scheme, density, numbers, degrees }));
  } catch {
    // A browser that keeps nothing asks the server at the next page.
  }
  return rewritten;
}

/** Follow the machine when it changes its scheme while a page is open. */
export function followMachine(): void {
  window.matchMedia(DARK).addEventListener("change", () => void dress(worn));
}
