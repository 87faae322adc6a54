import { useEffect, useRef, useState } from "react";
import { useDraft } from "./useDraft";

/** The fields of a form as they stood: name, which of that name it is, and its value or whether it is ticked. */
export type Kept = [name: string, nth: number, value: string | boolean][];

type Control = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

interface FormDraft {
  /** To be called whenever something in the form has changed. */
  keep: () => void;
  /** Whether what stands in the form was typed earlier and never sent. */
  back: boolean;
  drop: () => void;
}

/**
 * What somebody had typed into a form and not sent comes back when the form is opened again, however it was left. It is
 * dropped once it is sent, or given up on purpose. Only what differs from what the form began with is kept, so that what
 * others have changed meanwhile stays as they have it.
 */
export function useFormDraft(key: string, form: HTMLFormElement | null): FormDraft {
  const [kept, setKept, drop] = useDraft<Kept | null>(`form-${key}`, null);
  const before = useRef(kept);
  const began = useRef<Kept>([]);
  const [back] = useState(kept !== null && kept.length > 0);
  useEffect(() => {
    // A dialog's form is there only once the dialog is.
    if (!form) return undefined;
    began.current = fieldsOf(controls(form));
    const fields = before.current;
    if (!fields) return undefined;
    restore(form, fields);
    // A field that appears only now, as another was filled in, is filled in after it.
    const timer = window.setTimeout(() => restore(form, fields), 0);
    return () => window.clearTimeout(timer);
  }, [form]);
  const keep = () => {
    if (!form) return;
    const typed = changedFields(began.current, fieldsOf(controls(form)));
    if (typed.length) setKept(typed);
    else drop();
  };
  return { keep, back, drop };
}

/** The fields that are not as the form began. */
export function changedFields(began: Kept, now: Kept): Kept {
  const first = new Map(began.map(([name, nth, value]) => [`${nth} ${name}`, value]));
  return now.filter(([name, nth, value]) => first.get(`${nth} ${name}`) !== value);
}

/** What stands in some fields; secrets and files are never kept. */
export function fieldsOf(fields: Pick<HTMLInputElement, "name" | "type" | "value" | "checked">[]): Kept {
  const seen = new Map<string, number>();
  return fields.flatMap((field): Kept => {
    if (!field.name || field.type === "password" || field.type === "file") return [];
    const nth = seen.get(field.name) ?? 0;
    seen.set(field.name, nth + 1);
    const ticked = field.type === "checkbox" || field.type === "radio";
    return [[field.name, nth, ticked ? field.checked : field.value]];
  });
}

function controls(form: HTMLFormElement): HTMLInputElement[] {
  return [...form.elements].filter(
    (one) =>
      one instanceof HTMLInputElement ||
      one instanceof HTMLSelectElement ||
      one instanceof HTMLTextAreaElement,
  ) as HTMLInputElement[];
}

function restore(form: HTMLFormElement, kept: Kept): void {
  const own = controls(form);
  for (const [name, nth, value] of kept) {
    const field = own.filter((one) => one.name === name)[nth];
    if (!field || field.disabled || field.readOnly) continue;
    if (typeof value === "boolean") {
      if (field.checked !== value && (value || field.type === "checkbox")) field.click();
    } else if (field.value !== value) fill(field, value);
  }
}

/** Sets a value the way a person does, so that whoever listens hears of it. */
function fill(field: Control, value: string): void {
  const kind = Object.getPrototypeOf(field) as object;
  Object.getOwnPropertyDescriptor(kind, "value")?.set?.call(field, value);
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.dispatchEvent(new Event("change", { bubbles: true }));
}
