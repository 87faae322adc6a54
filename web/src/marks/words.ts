/** How numbers are written: three significant figures, differences with one decimal of a percent. */

import { formFor, plural } from "../design/plural";
import { marked, said, unitApart, warmth } from "../design/writing";

const MINUS = "−";

/** A number with so many decimals. */
export function fixed(value: number, decimals: number): string {
  return marked(value.toFixed(decimals));
}

export function figure(value: number, digits = 3): string {
  if (value === 0) return "0";
  const size = Math.floor(Math.log10(Math.abs(value)));
  const decimals = Math.min(6, Math.max(0, digits - 1 - size));
  return fixed(value, decimals);
}

/** A quantity as it was set or stands on a label: no more digits than it has. */
export function quantity(value: number, digits = 6): string {
  return marked(String(Number(value.toPrecision(digits))));
}

/** Units of what is measured; anything else is counted. */
const MEASURED = /^(fps|m?s|%|W|J|°C|°F|K|MHz|points|[kMG]B\/s|1\/min|1)?$/;

/** A value with its unit; a temperature in the degrees of whoever reads. */
export function withUnit(measured: number, measuredIn: string, digits = 3): string {
  const [value, unit] = warmth(measured, measuredIn);
  // A centre of equal counts is a whole number but for its last digits.
  const whole = Math.round(value);
  if (Math.abs(value - whole) < 1e-6 && !MEASURED.test(unit)) return `${whole} ${unit}`;
  return unit && unit !== "1" ? `${figure(value, digits)} ${unit}` : figure(value, digits);
}

/** A value without its unit, which stands somewhere near. */
export function bare(measured: number, measuredIn: string, digits = 3): string {
  return figure(warmth(measured, measuredIn)[0], digits);
}

/** A difference with its sign and unit. */
export function apart(measured: number, measuredIn: string, decimals = 1): string {
  const [value, unit] = warmth(measured, unitApart(measuredIn));
  return `${signed(value, decimals)} ${unit}`.trim();
}

/** A value as it stands at an axis: round, with its unit. */
export function onAxis(measured: number, measuredIn: string, digits = 6): string {
  const [value, unit] = warmth(measured, measuredIn);
  return `${quantity(value, digits)} ${unit}`.trim();
}

/** How far something spreads, with its unit. */
export function spread(measured: number, measuredIn: string, digits = 3): string {
  const [value, unit] = warmth(measured, unitApart(measuredIn));
  return `${figure(value, digits)} ${unit}`.trim();
}

export function signed(value: number, decimals = 1): string {
  if (Math.abs(value) > 1e6) return value > 0 ? "over +1 million" : `under ${MINUS}1 million`;
  const text = fixed(Math.abs(value), decimals);
  if (Number(Math.abs(value).toFixed(decimals)) === 0) return text;
  return (value > 0 ? "+" : MINUS) + text;
}

/** A sentence of the server in which no line ends between a number and its unit. */
export function unbroken(sentence: string): string {
  return said(sentence).replace(/(\d) (?=(%|×|[kMG]?W|[kMG]?B|fps|m?s|J|°[CF]|K|M|€)(?![\w/]))/g, "$1\u00a0");
}

/** A difference as it is shown: percent on the ratio scale, the metric's own unit otherwise. */
export function difference(value: number, scale: string, unit: string): string {
  if (scale === "ratio") return `${signed(value)} %`;
  return apart(value, unit, 2);
}

/** So many of something; in another language, `one` has all its forms, as `formFor` reads them. */
export function count(n: number, one: string, many?: string): string {
  return `${n} ${formFor(n, one.includes("|") ? one : `${one}|${many ?? plural(one)}`)}`;
}

export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${Math.floor(seconds / 3600)} h ${Math.round((seconds % 3600) / 60)} min`;
}

/** A time as a clock shows it: 1:42, 1:03:07. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor((whole % 3600) / 60);
  return hours ? `${hours}:${two(minutes)}:${two(whole % 60)}` : `${minutes}:${two(whole % 60)}`;
}

export function bytes(n: number): string {
  if (n < 1000) return `${n} B`;
  if (n < 1_000_000) return `${figure(n / 1000)} kB`;
  return n < 1_000_000_000 ? `${figure(n / 1_000_000)} MB` : `${figure(n / 1_000_000_000)} GB`;
}

const OPINION: Record<string, string> = {
  ahead: "text-better",
  "slightly ahead": "text-better",
  level: "text-level",
  "slightly behind": "text-worse",
  behind: "text-worse",
  undecided: "text-undecided",
  "noise unknown": "text-undecided",
};

/** The ink of a verdict; the word always stands beside it. */
export function verdictInk(verdict: string): string {
  return OPINION[verdict] ?? "text-quiet";
}

const SETTING_UNITS: Record<string, string> = { w: "W", gb: "GB", mts: "MT/s", fps: "fps", s: "s" };

/** A setting as people say it: the unit stands at the end of its key. */
export function setting(key: string, value: unknown): string {
  const words = key.split("_");
  const unit = words.length > 1 ? SETTING_UNITS[words[words.length - 1] ?? ""] : undefined;
  const name = (unit ? words.slice(0, -1) : words).join(" ");
  return `${name} ${String(value)}${unit ? ` ${unit}` : ""}`;
}

const WH = 3600;

/** An energy in the unit that people know it by. */
export function energyWords(joules: number): string {
  if (Math.abs(joules) < WH / 10) return `${figure(joules)} J`;
  const hours = joules / WH;
  return Math.abs(hours) >= 1000 ? `${figure(hours / 1000)} kWh` : `${figure(hours)} Wh`;
}

/** An amount in euro, whole where it is large. */
export function priceWords(euro: number): string {
  return `${euro >= 100 || Number.isInteger(euro) ? fixed(euro, 0) : fixed(euro, 2)} €`;
}
