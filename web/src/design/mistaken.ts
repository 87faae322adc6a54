import { Problem } from "../api/client";

/** The names of the fields that a problem is about. */
export function fieldsOfProblem(error: unknown): string[] {
  if (!(error instanceof Problem)) return [];
  const { field, errors } = error.members;
  if (typeof field === "string" && field) return [field];
  return typeof errors === "object" && errors !== null ? Object.keys(errors) : [];
}

/** Marks the fields that a problem is about, and goes to the first of them. */
export function markMistakes(form: HTMLFormElement | null, error: unknown): void {
  if (!form) return;
  const names = fieldsOfProblem(error);
  const marked = [...form.elements].filter((one) => {
    const wrong = names.includes((one as HTMLInputElement).name);
    if (wrong) one.setAttribute("aria-invalid", "true");
    else one.removeAttribute("aria-invalid");
    return wrong;
  });
  (marked[0] as HTMLElement | undefined)?.focus();
}
