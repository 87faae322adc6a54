import { useState } from "react";
import type { VerdictShape } from "../../api/client";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";
import { VersionedForm } from "../../design/VersionedForm";
import type { Finding } from "../findings/listed";
import { SentenceLine } from "./SentenceLine";
import { useStoring } from "./useVerdict";
import { fieldsOf, type Fields } from "./verdict";
import { replaced } from "./UseSection";

interface Props {
  verdict: VerdictShape;
  findings: Map<number, Finding>;
  byKey: Map<string, Finding>;
}

/** The answer in one sentence. */
export function AnswerLine({ verdict, findings, byKey }: Props) {
  const may = useMay();
  const review = useReview();
  const [editing, setEditing] = useState(false);
  const store = useStoring(verdict);
  const { warn } = useNotices();
  const [began, setBegan] = useState<Fields | null>(null);
  if (editing && began) {
    return (
      <VersionedForm<Fields, number>
        began={began}
        version={(fields) => fields.version}
        store={store}
        label="The answer"
        words={{ answer: "Answer" }}
        changesOf={(form) => ({ answer: String(form.get("answer") ?? "").trim() })}
        onSaved={() => undefined}
        onClose={() => setEditing(false)}
      >
        <Field label="The answer in one sentence" hint="It leads the record and the list of reviews.">
          <input name="answer" maxLength={300} defaultValue={verdict.answer} autoFocus autoComplete="off" />
        </Field>
      </VersionedForm>
    );
  }
  const own = verdict.sentences.filter((one) => one.use === "answer");
  const edit = () => {
    setBegan(fieldsOf(review.id, verdict));
    setEditing(true);
  };
  return (
    <div className="mb-3">
      {own.length ? (
        <div>
          {own.map((one, at) => (
            <SentenceLine
              key={`${at} ${one.text}`}
              leads
              sentence={one}
              findings={findings}
              byKey={byKey}
              onReplace={(words) =>
                store(verdict.version, { answer: replaced(verdict.answer, one.text, words) }).catch(
                  (error: Error) => warn(error.message),
                )
              }
            />
          ))}
        </div>
      ) : (
        <p className="font-serif text-lead text-quiet">No answer yet. It can wait until the passes are in.</p>
      )}
      <p className="mt-0.5 text-small text-quiet">
        the answer in one sentence: leads the record and the list of reviews
        {may("edit_review") && (
          <>
            {" · "}
            <Button kind="link" onClick={edit}>
              {verdict.answer ? "Edit the answer" : "Write the answer"}
            </Button>
          </>
        )}
      </p>
    </div>
  );
}
