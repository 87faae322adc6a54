import { useState } from "react";
import type { VerdictShape } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useNotices } from "../../design/Notices";
import { Seal } from "../../marks/Seal";
import type { Finding } from "../findings/listed";
import { EditUse } from "./EditUse";
import { SentenceLine } from "./SentenceLine";
import { useStoring } from "./useVerdict";
import { CALL_WORDS, CALLS, USE, type Use } from "./verdict";

interface Props {
  use: Use;
  verdict: VerdictShape;
  findings: Map<number, Finding>;
  byKey: Map<string, Finding>;
}

/** A use: what is advised for it, under which conditions, and its sentences with their checks. */
export function UseSection({ use, verdict, findings, byKey }: Props) {
  const may = useMay();
  const [editing, setEditing] = useState(false);
  const store = useStoring(verdict);
  const { warn } = useNotices();
  const name = use.name ? `For ${use.name}` : "In all";
  if (editing) {
    return (
      <section className="border-t-2 border-ink pt-2.5 pb-3" aria-label={name}>
        <EditUse use={use} verdict={verdict} byKey={byKey} onClose={() => setEditing(false)} />
      </section>
    );
  }
  const replace = async (before: string, after: string) => {
    try {
      await store(verdict.version, {
        [USE + use.key]: { ...use, text: replaced(use.text, before, after) },
      });
    } catch (error) {
      warn((error as Error).message);
    }
  };
  const own = verdict.sentences.filter((one) => one.use === use.key);
  const paragraphs = [...new Set(own.map((one) => one.paragraph))];
  return (
    <section className="border-t-2 border-ink pt-2.5 pb-3" aria-label={name}>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="text-body font-semibold">{name}</h2>
        {use.outcome && <strong className="text-note">{use.outcome}</strong>}
        <Advice use={use} verdict={verdict} />
        <span className="grow" />
        <span className="text-small text-quiet">{conditionWords(use)}</span>
        {may("edit_review") && (
          <Button kind="link" className="text-note" onClick={() => setEditing(true)}>
            Edit
          </Button>
        )}
      </div>
      {paragraphs.map((paragraph) => (
        <div key={paragraph} className="mb-3">
          {own
            .filter((one) => one.paragraph === paragraph)
            .map((one, at) => (
              <SentenceLine
                key={`${at} ${one.text}`}
                sentence={one}
                findings={findings}
                byKey={byKey}
                onReplace={(words) => replace(one.text, words)}
              />
            ))}
        </div>
      ))}
      {!own.length && <p className="text-note text-quiet">Nothing is written yet.</p>}
    </section>
  );
}

/** Which configurations are advised, and which are not, by their seals. */
function Advice({ use, verdict }: { use: Use; verdict: VerdictShape }) {
  const review = useReview();
  const price = (column: number) =>
    verdict.prices.find((one) => one.use === use.key && one.column === column)?.words;
  return (
    <>
      {CALLS.map((call) => {
        const judged = use.judged.filter((one) => one.call === call);
        if (!judged.length) return null;
        return (
          <span key={call} className="inline-flex flex-wrap items-center gap-x-2 text-note">
            <span className="text-quiet">{CALL_WORDS[call]}</span>
            {judged.map((one) => {
              const column = columnOf(review, one.column);
              return (
                column && (
                  <span key={one.column} className="inline-flex items-center gap-1">
                    <Seal
                      position={column.position}
                      label={column.label}
                      size={18}
                      baseline={column.is_baseline}
                    />
                    {column.label}
                    {one.note && <span className="text-quiet">{one.note}</span>}
                    {price(one.column) && <span className="text-quiet">({price(one.column)})</span>}
                  </span>
                )
              );
            })}
          </span>
        );
      })}
    </>
  );
}

export function conditionWords(use: Use): string {
  const told = [use.conditions.settings, use.conditions.workload, use.conditions.room].filter(Boolean);
  return told.length ? `holds for ${told.join(", ")}` : "";
}

/** A text with a sentence replaced; the sentence is known with its spaces drawn together. */
export function replaced(text: string, before: string, after: string): string {
  if (text.includes(before)) return text.replace(before, () => after);
  const spaced = before
    .split(" ")
    .map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"))
    .join("\\s+");
  return text.replace(new RegExp(spaced), () => after);
}
