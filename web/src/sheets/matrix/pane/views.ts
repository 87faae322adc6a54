export const VIEWS = ["trace", "distribution", "held back", "notes"] as const;
export type PaneView = (typeof VIEWS)[number];
export const VIEW_NAMES: Record<PaneView, string> = {
  trace: "Trace",
  distribution: "Distribution",
  "held back": "Limits",
  notes: "Notes",
};
