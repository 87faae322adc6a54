import { LANGUAGE } from "../../design/language";
const format = new Intl.DateTimeFormat(LANGUAGE, { day: "numeric", month: "short" });
const withYear = new Intl.DateTimeFormat(LANGUAGE, { day: "numeric", month: "short", year: "numeric" });

/** A day, with its year where that is not this one. */
export function dayWords(at: string, now = new Date()): string {
  const day = new Date(at);
  return (day.getFullYear() === now.getFullYear() ? format : withYear).format(day);
}
