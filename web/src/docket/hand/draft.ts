import type { HandRun } from "../../api/client";

/** A figure as it stands in its field; the method only where it is not the one that the row has. */
export interface Reading {
  text?: string;
  method?: string;
  half?: string;
}

/** What stands in the form of a pass by hand until it is stored. */
export interface Draft {
  readings: Record<string, Reading>;
  outcome: string;
  note: string;
  action: string;
  fallback: string;
  firstRun: boolean | null;
}

export const BLANK: Draft = {
  readings: {},
  outcome: "completed",
  note: "",
  action: "",
  fallback: "",
  firstRun: null,
};

/** Who runs the passes of this browser; kept from pass to pass. */
export interface Hands {
  ranBy: string;
  helpedBy: string;
}

/** The first figure that lacks a method, which the server would refuse. */
export function lacksMethod(sheet: HandRun, draft: Draft): string | undefined {
  return sheet.fields.find((field) => {
    const typed = draft.readings[field.metric];
    return typed?.text?.trim() && !(typed.method ?? field.method);
  })?.metric;
}

/** What is sent when the pass is over. A completed pass has figures, any other what came of it. */
export function endingOf(sheet: HandRun, draft: Draft, hands: Hands): object {
  const completed = draft.outcome === "completed";
  return {
    outcome: draft.outcome,
    readings: sheet.fields.flatMap((field) => {
      const typed = draft.readings[field.metric];
      if (!typed?.text?.trim()) return [];
      const own = typed.method ? { method: typed.method, half_width: halfOf(typed.half) } : {};
      return [{ metric: field.metric, text: typed.text.trim(), ...own }];
    }),
    note: draft.note,
    action: completed ? "" : draft.action,
    fallback: completed ? "" : draft.fallback,
    first_run: completed && sheet.first_run_apart && (draft.firstRun ?? sheet.first_run),
    ran_by: hands.ranBy,
    helped_by: hands.helpedBy,
  };
}

function halfOf(text: string | undefined): number | null {
  const typed = text?.trim().replace(",", ".") ?? "";
  return typed === "" ? null : Number(typed);
}
