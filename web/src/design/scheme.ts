/** How pages are drawn: light or dark, roomy or close. */
export interface Dress {
  scheme: string;
  density: string;
}

const KEPT = "dress";
const DARK = "(prefers-color-scheme: dark)";
const PLAIN: Dress = { scheme: "system", density: "roomy" };
let worn = PLAIN;

/** What was chosen on this machine last. */
export function dressKept(): Dress {
  try {
    return { ...PLAIN, ...(JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Partial<Dress>) };
  } catch {
    return PLAIN;
  }
}

/** Draw pages so from now on. */
export function dress(chosen: Dress): void {
  worn = chosen;
  const dark = chosen.scheme === "dark" || (chosen.scheme === "system" && window.matchMedia(DARK).matches);
  document.documentElement.dataset["scheme"] = dark ? "dark" : "light";
  document.documentElement.dataset["density"] = chosen.density;
  try {
    localStorage.setItem(KEPT, JSON.stringify({ scheme: chosen.scheme, density: chosen.density }));
  } catch {
    // A browser that keeps nothing asks the server at the next page.
  }
}

/** Follow the machine when it changes its scheme while a page is open. */
export function followMachine(): void {
  window.matchMedia(DARK).addEventListener("change", () => dress(worn));
}
