import { useState, type FormEvent } from "react";
import { api } from "../../api/client";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";
import { useTalking } from "../../talk/talking";
import type { Finding } from "../findings/listed";
import { usePins } from "../findings/usePins";
import { Marked } from "./Marked";
import type { Sentence } from "./verdict";

/** The answers of the check: a sign, and whether it wants to be looked at. */
const SIGNS: Record<string, [string, "quiet" | "warn" | "open"]> = {
  backed: ["◆", "quiet"],
  contradicted: ["✕", "warn"],
  further: ["▸", "warn"],
  unsettled: ["○", "open"],
  sourceless: ["◇", "open"],
  judgement: ["–", "quiet"],
  nothing: ["", "quiet"],
};
const TONES = {
  quiet: "border-line text-quiet",
  warn: "border-mark text-mark",
  open: "border-undecided text-undecided",
};

interface Props {
  sentence: Sentence;
  findings: Map<number, Finding>;
  byKey: Map<string, Finding>;
  /** Puts other words in the place of the sentence. */
  onReplace: (words: string) => Promise<unknown>;
  /** Whether it is of the answer, which leads. */
  leads?: boolean;
}

/** A sentence, and beside it what came of holding it against the data, with what can be done about it. */
export function SentenceLine({ sentence, findings, byKey, onReplace, leads = false }: Props) {
  return (
    <div className="mb-2.5 grid gap-x-6 lg:grid-cols-[minmax(0,1fr)_300px]">
      <p
        className={`font-serif ${leads ? "text-title leading-snug font-semibold" : "text-lead leading-relaxed"}`}
      >
        <Marked text={sentence.text} findings={findings} />
      </p>
      <Check sentence={sentence} byKey={byKey} onReplace={onReplace} />
    </div>
  );
}

function Check({ sentence, byKey, onReplace }: Omit<Props, "findings" | "leads">) {
  const review = useReview();
  const may = useMay();
  const act = useAct();
  const pins = usePins([...byKey.values()]);
  const talking = useTalking();
  const [answering, setAnswering] = useState(false);
  const [sign, tone] = SIGNS[sentence.status] ?? ["", "quiet"];
  if (sentence.status === "nothing") return null;
  const edits = may("edit_review");
  const { reply } = sentence;
  const answer = (kind: "judgement" | "stands", words: string) =>
    act(
      async () =>
        api.POST("/api/reviews/{review}/verdict/replies", {
          params: { path: { review: review.id } },
          body: { sentence: sentence.text, kind, words },
        }),
      {
        said: kind === "judgement" ? "Marked as a judgement." : "It stands, with your reason.",
        made: "verdict",
      },
    );
  const takeBack = () =>
    act(async () => api.DELETE("/api/replies/{reply}", { params: { path: { reply: reply?.id ?? 0 } } }), {
      said: "Taken back.",
      made: "verdict",
    });
  /** Names a finding in the sentence; one that is not pinned yet is pinned first. */
  const put = async (finding: Finding) => {
    if (!finding.pin) await pins.toggle(finding);
    const number = finding.pin?.number ?? (await numberOf(review.id, finding.key));
    if (number) await onReplace(withMark(sentence.text, number));
  };
  const owed = sentence.owed.reduce((sum, one) => sum + one.passes, 0);
  const owe = () =>
    act(
      async () =>
        api.POST("/api/reviews/{review}/findings/owed", {
          params: { path: { review: review.id } },
          body: { cells: sentence.owed },
        }),
      { said: `${count(owed, "pass", "passes")} put on the docket.`, made: "docket" },
    );
  const wanting = sentence.status !== "backed" && sentence.status !== "judgement";
  return (
    <div className={`border-l-2 pl-3 text-small ${TONES[reply ? "quiet" : tone]}`}>
      <span aria-hidden="true">{sign} </span>
      {sentence.status !== "backed" && `${sentence.status_words}${sentence.says.length ? ": " : ""}`}
      {sentence.says.join("; ")}
      {reply && (
        <span className="text-quiet">
          {reply.kind === "judgement" ? `, marked by ${reply.by}` : ` — stands: ${reply.words} (${reply.by})`}
          {reply.kind === "judgement" && reply.words && `: ${reply.words}`}
        </span>
      )}{" "}
      <Button
        kind="link"
        className="text-ink print:hidden"
        onClick={() => talking?.open({ about: "sentence", key: sentence.text, words: `“${sentence.text}”` })}
      >
        Talk
      </Button>
      {edits && (
        <span className="mt-0.5 flex flex-wrap gap-x-3 text-ink print:hidden">
          {sentence.instead && (
            <Button kind="link" onClick={() => void onReplace(sentence.instead)}>
              Take its figure
            </Button>
          )}
          {wanting &&
            sentence.offers.slice(0, 2).map((key) => {
              const finding = byKey.get(key);
              return (
                finding && (
                  <Button key={key} kind="link" title={finding.sentence} onClick={() => void put(finding)}>
                    Put in: {finding.kind_words}
                  </Button>
                )
              );
            })}
          {owed > 0 && (
            <Button kind="link" onClick={() => void owe()}>
              {`Put ${count(owed, "pass", "passes")} on the docket`}
            </Button>
          )}
          {reply ? (
            <Button kind="link" onClick={() => void takeBack()}>
              Take the answer back
            </Button>
          ) : (
            wanting && (
              <>
                <Button kind="link" onClick={() => void answer("judgement", "")}>
                  It is a judgement
                </Button>
                <Button kind="link" onClick={() => setAnswering(!answering)}>
                  It stands
                </Button>
              </>
            )
          )}
        </span>
      )}
      {answering && (
        <Reason
          onClose={() => setAnswering(false)}
          onSaid={async (words) => {
            if (await answer("stands", words)) setAnswering(false);
          }}
        />
      )}
    </div>
  );
}

function Reason({ onSaid, onClose }: { onSaid: (words: string) => Promise<void>; onClose: () => void }) {
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    void onSaid(String(new FormData(event.currentTarget).get("words") ?? ""));
  };
  return (
    <form onSubmit={submit} className="mt-1 flex gap-2 text-ink">
      <input
        name="words"
        aria-label="Why it stands all the same"
        placeholder="why it stands all the same"
        required
        maxLength={400}
        autoFocus
        autoComplete="off"
        onKeyDown={(event) => event.key === "Escape" && onClose()}
        className="min-w-0 grow border border-ink bg-sheet px-1"
      />
      <Button type="submit">Keep</Button>
    </form>
  );
}

async function numberOf(review: number, key: string): Promise<number | undefined> {
  const found = await api.GET("/api/reviews/{review}/findings", { params: { path: { review } } });
  return found.data?.findings.find((one) => one.key === key)?.pin?.number;
}

/** A sentence with the mark of a finding before its full stop. */
export function withMark(text: string, number: number): string {
  const [, words = text, end = ""] = /^(.*?)([.!?]*)$/s.exec(text) ?? [];
  return `${words} [${number}]${end}`;
}
