import { LANGUAGE } from "./language";

const rules = new Intl.PluralRules(LANGUAGE);
const ORDER: Intl.LDMLPluralRule[] = ["zero", "one", "two", "few", "many", "other"];
const spoken = ORDER.filter((form) => rules.resolvedOptions().pluralCategories.includes(form));

/** More than one of something, as nearly all English words have it. */
export function plural(one: string): string {
  return `${one}${one.endsWith("s") ? "es" : "s"}`;
}

/** Of "pass|passes" the form that goes with a number: as many as the language has, in the order of Unicode. */
export function formFor(n: number, forms: string): string {
  const all = forms.split("|");
  return all[spoken.indexOf(rules.select(n))] ?? all[all.length - 1] ?? "";
}
