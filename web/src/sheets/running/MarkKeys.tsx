import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { runningMarksQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { useKeys } from "../../shell/keys";
import { useVocabulary } from "../../api/vocabulary";
import { fixed } from "../../marks/words";

type Mark = Shapes["MarkShape"];

/** The keys of the parts of a run: pressed once they begin, pressed again they end. */
const KEY_OF: Record<string, string> = {
  menu: "m",
  loading: "l",
  indoor: "n",
  outdoor: "o",
  crowd: "c",
  "cut scene": "u",
};

/** Marks and impressions on the clock of a running pass, by key or thumb. */
export function MarkKeys({ entry, large }: { entry: number; large: boolean }) {
  const marks = useQuery(runningMarksQuery(entry));
  const { spans, impressions, grades } = useVocabulary();
  const run = useAct();
  const [words, setWords] = useState("");
  const [impression, setImpression] = useState("");
  const path = `/api/docket/${entry}/marks`;
  const open = (label: string) =>
    marks.data?.find((mark) => mark.label === label && mark.end_s === null && mark.grade === null);
  const add = (body: Record<string, unknown>, said: string) =>
    void run(() => act<Mark>("POST", path, body), {
      said,
      undo: (made) => act("DELETE", `/api/marks/${made.id}`),
      made: "marks",
    });
  const press = (label: string) => {
    const mark = open(label);
    if (mark) void run(() => act("POST", `/api/marks/${mark.id}`), { said: `${label} ends.`, made: "marks" });
    else add({ label }, `${label} begins.`);
  };
  useKeys(
    Object.fromEntries(
      spans.flatMap((label) => (KEY_OF[label] ? [[KEY_OF[label], () => press(label)]] : [])),
    ),
  );
  const size = large ? "min-w-28 py-3 text-lead" : "";
  return (
    <div className="mt-3">
      <h3 className="mb-1 text-note font-semibold">
        Mark this part of the run <span className="font-normal text-quiet">press again when it ends</span>
      </h3>
      <div className="flex flex-wrap gap-2">
        {spans.map((label) => (
          <Button
            key={label}
            kind={open(label) ? "strong" : "plain"}
            aria-pressed={Boolean(open(label))}
            className={size}
            onClick={() => press(label)}
          >
            {label} <span className={open(label) ? "" : "text-quiet"}>{KEY_OF[label]}</span>
          </Button>
        ))}
        <form
          className="flex"
          onSubmit={(event) => {
            event.preventDefault();
            if (words.trim()) press(words.trim());
            setWords("");
          }}
        >
          <input
            aria-label="Own words for a part of the run"
            placeholder="own words"
            maxLength={60}
            value={words}
            onChange={(event) => setWords(event.target.value)}
            className={`w-32 border border-ink bg-sheet px-2 ${large ? "py-3" : "py-1"}`}
          />
        </form>
      </div>
      <h3 className="mt-3 mb-1 text-note font-semibold">Note an impression</h3>
      <div className="flex flex-wrap gap-2">
        {impressions.map((one) => (
          <Button
            key={one}
            kind={impression === one ? "strong" : "plain"}
            aria-pressed={impression === one}
            className={size}
            onClick={() => setImpression(impression === one ? "" : one)}
          >
            {one}
          </Button>
        ))}
      </div>
      {impression && (
        <div className="mt-2 flex flex-wrap gap-2" role="group" aria-label={`How much ${impression}`}>
          {grades.map((grade, at) => (
            <Button
              key={grade}
              className={size}
              onClick={() => {
                add({ label: impression, grade: at }, `${impression}: ${grade}.`);
                setImpression("");
              }}
            >
              {at} {grade}
            </Button>
          ))}
        </div>
      )}
      {marks.data && marks.data.length > 0 && (
        <ul className="mt-2 text-note">
          {marks.data.map((mark) => (
            <li key={mark.id} className="flex gap-3 border-t border-line py-0.5">
              <span className="w-28 text-quiet">{spanWords(mark)}</span>
              <span>
                {mark.label}
                {mark.grade !== null && `: ${grades[mark.grade]}`}
              </span>
              <Button
                kind="link"
                className="ml-auto"
                onClick={() =>
                  void run(() => act("DELETE", `/api/marks/${mark.id}`), {
                    said: "The mark is off.",
                    undo: () => act("PUT", `/api/marks/${mark.id}/back`),
                    made: "marks",
                  })
                }
              >
                take off
              </Button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

export function spanWords(mark: { start_s: number; end_s: number | null }): string {
  const from = fixed(mark.start_s, 1);
  return mark.end_s === null ? `at ${from} s` : `${from} to ${fixed(mark.end_s, 1)} s`;
}
