import { useState } from "react";
import type { VerdictShape } from "../../api/client";
import { useReview } from "../../api/review";
import { useVocabulary } from "../../api/vocabulary";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";
import { VersionedForm } from "../../design/VersionedForm";
import { Seal } from "../../marks/Seal";
import type { Finding } from "../findings/listed";
import { TextField } from "./TextField";
import { useStoring } from "./useVerdict";
import { CALLS, fieldsOf, OUTCOMES, USE, type Call, type Fields, type Use } from "./verdict";

interface Props {
  use: Use;
  verdict: VerdictShape;
  byKey: Map<string, Finding>;
  onClose: () => void;
}

/** A use as a form; the text is checked as it is written. */
export function EditUse({ use, verdict, byKey, onClose }: Props) {
  const review = useReview();
  const { price_bases } = useVocabulary();
  const store = useStoring(verdict);
  const { warn, tell } = useNotices();
  const [began] = useState<Fields>(() => fieldsOf(review.id, verdict));
  const known = verdict.uses.some((one) => one.key === use.key);
  const remove = async () => {
    try {
      await store(verdict.version, { [USE + use.key]: null });
      tell("The use is taken away.", () => {
        void store(verdict.version + 1, { [USE + use.key]: use }).catch((e: Error) => warn(e.message));
      });
      onClose();
    } catch (error) {
      warn((error as Error).message);
    }
  };
  return (
    <VersionedForm<Fields, number>
      began={began}
      version={(fields) => fields.version}
      store={store}
      label={use.name ? `Edit the verdict for ${use.name}` : "Edit the verdict"}
      words={{ [USE + use.key]: "This use" }}
      changesOf={(form) => ({
        [USE + use.key]: readUse(
          use,
          review.columns.map((one) => one.id),
          form,
        ),
      })}
      onSaved={() => undefined}
      onClose={onClose}
    >
      <div className="grid gap-x-6 md:grid-cols-2">
        <Field label="For whom, or for what" hint="“the touring dome”; empty for the review as a whole">
          <input name="name" maxLength={300} defaultValue={use.name} autoComplete="off" />
        </Field>
        <Field label="What comes of it">
          <select name="outcome" defaultValue={use.outcome}>
            {OUTCOMES.map((one) => (
              <option key={one} value={one}>
                {one || "a choice between configurations"}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <table className="mb-3 text-note">
        <caption className="sr-only">What is advised</caption>
        <tbody>
          {review.columns.map((column) => {
            const judged = use.judged.find((one) => one.column === column.id);
            return (
              <tr key={column.id}>
                <th scope="row" className="py-0.5 pr-3 text-left font-normal whitespace-nowrap">
                  <Seal position={column.position} label={column.label} size={18} /> {column.label}
                </th>
                <td className="pr-3">
                  <select
                    name={`call ${column.id}`}
                    defaultValue={judged?.call ?? ""}
                    aria-label={`What is said of ${column.label}`}
                    className="border border-ink bg-sheet px-1 py-0.5"
                  >
                    <option value="">says nothing</option>
                    {CALLS.map((one) => (
                      <option key={one} value={one}>
                        {one}
                      </option>
                    ))}
                  </select>
                </td>
                <td>
                  <input
                    name={`note ${column.id}`}
                    defaultValue={judged?.note ?? ""}
                    maxLength={300}
                    aria-label={`A word on ${column.label}`}
                    placeholder="where quiet matters most"
                    autoComplete="off"
                    className="w-64 border border-line bg-sheet px-1 py-0.5"
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <TextField use={use} byKey={byKey} />
      <details className="mb-3 text-note" open={Object.values(use.conditions).some(Boolean)}>
        <summary className="mb-1 cursor-pointer">Under which conditions it holds</summary>
        <div className="grid gap-x-6 md:grid-cols-4">
          <Field label="Settings">
            <input name="settings" maxLength={300} defaultValue={use.conditions.settings} />
          </Field>
          <Field label="Workload">
            <input name="workload" maxLength={300} defaultValue={use.conditions.workload} />
          </Field>
          <Field label="Room">
            <input name="room" maxLength={300} defaultValue={use.conditions.room} />
          </Field>
          <Field label="Prices by" hint="told with currency and day">
            <select name="basis" defaultValue={use.conditions.basis}>
              <option value="">prices play no part</option>
              {price_bases.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </Field>
        </div>
      </details>
      {known && (
        <p className="mb-3 text-note">
          <Button kind="link" onClick={() => void remove()}>
            Take this use away
          </Button>
        </p>
      )}
    </VersionedForm>
  );
}

/** The use as the form holds it. */
function readUse(before: Use, columns: number[], form: FormData): Use {
  const said = (name: string) => String(form.get(name) ?? "").trim();
  return {
    key: before.key,
    name: said("name"),
    outcome: said("outcome") as Use["outcome"],
    judged: columns.flatMap((column) => {
      const call = said(`call ${column}`) as Call | "";
      return call ? [{ column, call, note: said(`note ${column}`) }] : [];
    }),
    conditions: {
      settings: said("settings"),
      room: said("room"),
      workload: said("workload"),
      basis: said("basis"),
    },
    text: said("text"),
  };
}
