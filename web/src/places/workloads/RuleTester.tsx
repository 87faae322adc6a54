import { useState } from "react";
import { act } from "../../api/acts";
import type { Shapes, WorkloadShape } from "../../api/client";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";

type Match = Shapes["Match"];

const KINDS: [string, string, string][] = [
  ["text", "an expression over text", "tour average: (?P<average_fps>[0-9.]+) fps"],
  ["json", "a path into JSON", "$.render.seconds"],
  ["table", "a column of a table", "one thread"],
];

/** Reading rules of a workload, tried on a pasted sample: what is found is marked in the text. */
export function RuleTester({ workload }: { workload: WorkloadShape }) {
  const rules = workload.rules;
  const [kind, setKind] = useState(String(rules[0]?.kind ?? "text"));
  const [expression, setExpression] = useState(String(rules[0]?.expression ?? ""));
  const [metric, setMetric] = useState(String(rules[0]?.metric ?? workload.metrics[0]?.key ?? ""));
  const [sample, setSample] = useState("");
  const [matches, setMatches] = useState<Match[] | null>(null);
  const [problem, setProblem] = useState("");
  const attempt = async () => {
    setProblem("");
    setMatches(null);
    try {
      const rule = { kind, expression, metric };
      setMatches(
        (await act<{ matches: Match[] }>("POST", "/api/workloads/try-rule", { rule, sample })).matches,
      );
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const change =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      set(value);
      setMatches(null);
    };
  return (
    <section aria-label="Reading rules" className="mt-6 border-t-2 border-ink pt-3">
      <h3 className="mb-2 font-serif text-lead font-semibold">Reading its output</h3>
      {rules.length > 0 && (
        <ul className="mb-3 text-note">
          {rules.map((rule, at) => (
            <li key={at} className="flex gap-3 border-t border-line py-0.5">
              <span className="w-44 text-quiet">{String(rule.name ?? "")}</span>
              <code className="flex-1 break-all">{String(rule.expression)}</code>
              <Button
                kind="link"
                onClick={() => {
                  setKind(String(rule.kind));
                  setExpression(String(rule.expression));
                  setMetric(String(rule.metric ?? ""));
                  setMatches(null);
                }}
              >
                try it
              </Button>
            </li>
          ))}
        </ul>
      )}
      <div className="grid gap-4 lg:grid-cols-2">
        <div>
          <div className="grid grid-cols-2 gap-3">
            <Field label="Rule">
              <select value={kind} onChange={(event) => change(setKind)(event.target.value)}>
                {KINDS.map(([key, words]) => (
                  <option key={key} value={key}>
                    {words}
                  </option>
                ))}
              </select>
            </Field>
            {kind !== "text" && (
              <Field label="Reads the metric">
                <input value={metric} onChange={(event) => change(setMetric)(event.target.value)} />
              </Field>
            )}
          </div>
          <Field
            label={kind === "text" ? "Expression" : kind === "json" ? "Path" : "Column"}
            hint={kind === "text" ? "A named group for each metric: (?P<metric>…)." : undefined}
          >
            <input
              value={expression}
              placeholder={KINDS.find(([key]) => key === kind)?.[2]}
              onChange={(event) => change(setExpression)(event.target.value)}
              spellCheck={false}
            />
          </Field>
          <Button disabled={!sample || !expression} onClick={() => void attempt()}>
            Try it on the sample
          </Button>
          {problem && (
            <p role="alert" className="mt-2 text-note text-mark">
              {problem}
            </p>
          )}
          {matches && <Found matches={matches} />}
        </div>
        <div>
          <Field label="Sample" hint="Paste what the program has written.">
            <textarea
              rows={6}
              value={sample}
              spellCheck={false}
              onChange={(event) => change(setSample)(event.target.value)}
            />
          </Field>
          {matches && matches.length > 0 && <Marked sample={sample} matches={matches} />}
        </div>
      </div>
    </section>
  );
}

function Found({ matches }: { matches: Match[] }) {
  if (!matches.length) return <p className="mt-2 text-note">Nothing in the sample fits.</p>;
  return (
    <ul className="mt-2 text-note" aria-label="Found">
      {matches.map((match, at) => (
        <li key={at} className="border-t border-line py-0.5">
          {match.metric}: <strong>{match.text}</strong>
          {match.value === null && <span className="text-mark"> ⚑ not a number</span>}
        </li>
      ))}
    </ul>
  );
}

/** The sample with everything that was found marked in it. */
function Marked({ sample, matches }: { sample: string; matches: Match[] }) {
  const pieces: React.ReactNode[] = [];
  // Places count whole characters; a string's own index counts some of them twice.
  const letters = [...sample];
  let at = 0;
  for (const match of [...matches].sort((a, b) => a.start - b.start)) {
    if (match.start < at) continue;
    pieces.push(letters.slice(at, match.start).join(""));
    pieces.push(
      <mark
        key={match.start}
        className="bg-band font-semibold text-ink underline decoration-mark"
        title={match.metric}
      >
        {letters.slice(match.start, match.end).join("")}
      </mark>,
    );
    at = match.end;
  }
  pieces.push(letters.slice(at).join(""));
  return (
    <pre
      className="max-h-56 overflow-auto border border-line bg-sheet p-2 text-note whitespace-pre-wrap"
      aria-label="The sample with what was found"
    >
      {pieces}
    </pre>
  );
}
