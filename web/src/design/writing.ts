/** How this person has numbers and temperatures written; everything that shows a number goes through here. */

export interface Writing {
  /** "point" or "comma": what stands before decimals. */
  numbers: string;
  /** "C" or "F": how warmth is told. */
  degrees: string;
}

const PLAIN: Writing = { numbers: "point", degrees: "C" };
let chosen = PLAIN;

/** Write so from now on. Says whether that is another way than before. */
export function write({ numbers, degrees }: Writing): boolean {
  const other = numbers !== chosen.numbers || degrees !== chosen.degrees;
  chosen = { numbers, degrees };
  return other;
}

/** Whether numbers and temperatures are written as the server tells them. */
export function writesPlainly(): boolean {
  return chosen.numbers === PLAIN.numbers && chosen.degrees === PLAIN.degrees;
}

let drawings = 0;
const watching = new Set<() => void>();

/** Have everything drawn once more, as numbers in it are written otherwise now. */
export function drawAnew(): void {
  drawings += 1;
  for (const tell of watching) tell();
}

/** How often all was drawn anew, for `useSyncExternalStore`. */
export function drawnAnew(): number {
  return drawings;
}

export function watchDrawings(tell: () => void): () => void {
  watching.add(tell);
  return () => watching.delete(tell);
}

/** A number as JavaScript writes it, with the decimal mark of this person and a true minus. */
export function marked(text: string): string {
  const minus = text.replace("-", "−");
  return chosen.numbers === "comma" ? minus.replace(".", ",") : minus;
}

/** A whole number with its thousands set apart. */
export function grouped(value: number): string {
  return value.toLocaleString(chosen.numbers === "comma" ? "de-DE" : "en-GB");
}

/** What a temperature in °C, or a difference of two in K, is told in: the value and its unit. */
export function warmth(value: number, unit: string): [number, string] {
  if (chosen.degrees !== "F") return [value, unit];
  if (unit === "°C") return [value * 1.8 + 32, "°F"];
  return unit === "K" ? [value * 1.8, "°F"] : [value, unit];
}

/** The unit of a difference between two values: the kelvin for temperatures. */
export function unitApart(unit: string): string {
  return unit === "°C" ? "K" : unit;
}

/** The unit that stands over a column or an axis whose values `warmth` writes. */
export function warmthUnit(unit: string): string {
  return warmth(0, unit)[1];
}

const GAP = "[ \\u00a0]";
const VALUE = "[+−-]?\\d+(?:\\.\\d+)?";
const UNIT =
  "(?:%|×|°C|°F|K|k?Wh|[kMG]?W|[kMGT]i?B|fps|[mµn]?s|min|h|J|[kMG]?Hz|MT/s|V|A|dB|rpm|€|EUR|points|times|hitches)(?!\\w)";
const BEGINS = "(?<![\\w.,])";
const WARM = new RegExp(`${BEGINS}(${VALUE})(?:( to |–)(${VALUE}))?(${GAP})(°C|K)(?![\\w/])`, "g");
const APART = /[+±] ?$/;
const DECIMAL = new RegExp(
  `${BEGINS}(\\d+)\\.(\\d+)(?=${GAP}?${UNIT}|(?: to | of |–)${VALUE}${GAP}?${UNIT})|(?<=[+−±])(\\d+)\\.(\\d+)(?![\\w.])`,
  "g",
);

/**
 * A sentence of the server as this person reads it. Numbers in it have a point, °C tells how warm something is and K a
 * difference. A number with neither unit nor sign stays as it is: it may be that of a version.
 */
export function said(sentence: string): string {
  const warm = chosen.degrees === "F" ? sentence.replace(WARM, inFahrenheit) : sentence;
  return chosen.numbers === "comma" ? warm.replace(DECIMAL, "$1$3,$2$4") : warm;
}

function inFahrenheit(
  _found: string,
  first: string,
  between: string | undefined,
  second: string | undefined,
  gap: string,
  unit: string,
  at: number,
  sentence: string,
): string {
  const apart = unit === "K" || APART.test(sentence.slice(0, at)) || first.startsWith("+");
  const turned = (text: string) => {
    const value = Number(text.replace("−", "-"));
    const decimals = /\.(\d+)/.exec(text)?.[1]?.length ?? 0;
    const [told] = warmth(value, apart ? "K" : unit);
    return (text.startsWith("+") ? "+" : "") + told.toFixed(decimals).replace("-", "−");
  };
  const rest = second === undefined ? "" : `${between}${turned(second)}`;
  return `${turned(first)}${rest}${gap}°F`;
}
