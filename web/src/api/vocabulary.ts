import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "./client";
import { catalogueQuery } from "./queries";

export type Vocabulary = Pick<
  Shapes["CatalogueShape"],
  | "low_definitions"
  | "reading_methods"
  | "spans"
  | "impressions"
  | "grades"
  | "pair_kinds"
  | "doubts"
  | "outcomes"
  | "workload_kinds"
  | "price_bases"
>;

const UNREAD: Vocabulary = {
  low_definitions: {},
  reading_methods: [],
  spans: [],
  impressions: [],
  grades: [],
  pair_kinds: {},
  doubts: [],
  outcomes: {},
  workload_kinds: {},
  price_bases: [],
};

/** The words that the server offers and takes; empty until they are read, which is once. */
export function useVocabulary(): Vocabulary {
  return useQuery(catalogueQuery).data ?? UNREAD;
}

/** Half-width that readings by a method usually have in a unit, as it is typed; empty where whoever reads says it. */
export function usualHalfWidth(methods: Vocabulary["reading_methods"], method: string, unit: string): string {
  const usual = methods.find((one) => one.name === method)?.usual;
  return String(usual?.[unit] ?? usual?.[""] ?? "");
}
