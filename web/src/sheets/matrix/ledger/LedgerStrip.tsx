import { useState } from "react";
import { Button } from "../../../design/Button";
import { Seal } from "../../../marks/Seal";
import { spread } from "../../../marks/words";
import { columnOf, testOf } from "../../../api/lookup";
import { HandsOf } from "./HandsOf";
import type { Ledger, Method } from "./useLedger";
import { landingWords, readingWords } from "./words";
import { useMatrix, useReview } from "../../../api/review";
import { usualHalfWidth, useVocabulary } from "../../../api/vocabulary";

interface Props {
  ledger: Ledger;
}

/** How what is typed is understood, where it lands, what looks wrong in it, and how the row's readings are taken. */
export function LedgerStrip({ ledger }: Props) {
  const { outcomes } = useVocabulary();
  const review = useReview();
  const matrix = useMatrix();
  const [changing, setChanging] = useState("");
  const at = ledger.at;
  const row = at && matrix.rows.find((one) => one.test === at.test && one.metric === at.metric);
  const column = at && columnOf(review, at.column);
  const test = at && testOf(review, at.test);
  const looked = ledger.looked;
  const warnings = looked?.landings.flatMap((landing) => landing.warnings) ?? [];
  const asks = looked?.asks_method || (row && changing === row.key);
  return (
    <section
      id="ledger-strip"
      aria-label="Typing in"
      className="sticky bottom-0 z-20 -mx-5 border-t-2 border-mark bg-sheet px-5 py-2"
    >
      {!at || !row || !column || !test ? (
        <p className="text-note">
          Type into a cell: <kbd>94.1 93.8 94.4</kbd> for three passes, <kbd>52–55</kbd>, <kbd>~45</kbd>,{" "}
          <kbd>&gt;200</kbd>, <kbd>12:07</kbd>, or <kbd>12:07 @ 30/120</kbd> for a job done in part; a letter
          for how it ended (<kbd>n</kbd> did not start, <kbd>c</kbd> crashed, <kbd>h</kbd> hung, <kbd>v</kbd>{" "}
          visual faults, <kbd>o</kbd> overloaded, <kbd>r</kbd> refused, <kbd>s</kbd> stopped); <kbd>-</kbd>{" "}
          not run, <kbd>x</kbd> not recorded, <kbd>?</kbd> shown but not noted. After a letter,{" "}
          <kbd>c (why; what was done; what ran instead)</kbd>. A table can be pasted on a cell. <HandsOf />{" "}
          <Button kind="link" onClick={() => ledger.turn(false)}>
            Done typing
          </Button>
        </p>
      ) : (
        <>
          <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
            <span className="flex items-center gap-1.5 text-note">
              <Seal position={column.position} label={column.label} size={16} />
              <strong>{test.name}</strong> {row.label} on {column.label}
              {row.unit && <span className="text-quiet">in {row.unit}</span>}
            </span>
            <span role="status" aria-live="polite" className="text-body">
              {looked?.landings.map((landing, index) => (
                <span key={index} className="mr-3">
                  <strong>{readingWords(landing, row.unit, outcomes)}</strong>{" "}
                  <span className="text-note text-quiet">{landingWords(landing)}</span>
                </span>
              ))}
            </span>
            {row.reading && !asks && (
              <span className="ml-auto text-note text-quiet">
                {row.reading.method}
                {row.reading.half_width
                  ? `, ± ${spread(row.reading.half_width, row.unit, 2)}`
                  : row.reading.half_width === null
                    ? ", precision not known"
                    : ", exact as shown"}{" "}
                <Button kind="link" onClick={() => setChanging(row.key)}>
                  change
                </Button>
              </span>
            )}
          </div>
          {(looked?.error || ledger.problem) && (
            <p role="alert" className="mt-1 text-note text-mark">
              {looked?.error || ledger.problem}
            </p>
          )}
          {warnings.length > 0 && (
            <p role="alert" className="mt-1 text-note">
              <strong>Is that right?</strong> {warningWords(warnings)}{" "}
              <span className="text-quiet">
                {ledger.warned ? "Enter once more stores it." : "Enter twice stores it all the same."}
              </span>
            </p>
          )}
          {asks && (
            <MethodForm
              key={row.key}
              unit={row.unit}
              onDone={(method) => {
                setChanging("");
                void ledger.remember(method).then(() => focusCell());
              }}
            />
          )}
        </>
      )}
    </section>
  );
}

const MOST_WARNINGS = 3;

function warningWords(warnings: string[]): string {
  const told = [...new Set(warnings)];
  const more = told.length - MOST_WARNINGS;
  return told.slice(0, MOST_WARNINGS).join(" ") + (more > 0 ? ` And ${more} more.` : "");
}

function focusCell(): void {
  document.querySelector<HTMLInputElement>("input[aria-describedby=ledger-strip]")?.focus();
}

/** Asked once for a row and remembered: how its readings are taken, and how exact they are. */
function MethodForm({ unit, onDone }: { unit: string; onDone: (method: Method) => void }) {
  const methods = useVocabulary().reading_methods.filter((one) => one.name !== "captured");
  const [chosen, setMethod] = useState("");
  const [typed, setHalf] = useState<string | null>(null);
  const [everywhere, setEverywhere] = useState(true);
  const method = chosen || (methods[0]?.name ?? "");
  const half = typed ?? usualHalfWidth(methods, method, unit);
  const dress = "ml-1.5 border border-ink bg-sheet px-1.5 py-0.5 text-body";
  return (
    <form
      className="mt-1.5 flex flex-wrap items-center gap-4 text-note"
      onSubmit={(event) => {
        event.preventDefault();
        onDone({
          method,
          half_width: half.trim() === "" ? null : Number(half.replace(",", ".")),
          everywhere,
        });
      }}
    >
      <label>
        How are this row&rsquo;s readings taken?
        <select
          className={dress}
          value={method}
          onChange={(event) => {
            setMethod(event.target.value);
            setHalf(null);
          }}
        >
          {methods.map((one) => (
            <option key={one.name}>{one.name}</option>
          ))}
        </select>
      </label>
      <label>
        exact to ±
        <input
          className={`${dress} w-20`}
          inputMode="decimal"
          value={half}
          placeholder="not known"
          pattern="[0-9]*[.,]?[0-9]*"
          onChange={(event) => setHalf(event.target.value)}
        />{" "}
        {unit}
      </label>
      <Button kind="strong" type="submit">
        Remember it
      </Button>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={everywhere}
          onChange={(event) => setEverywhere(event.target.checked)}
        />
        for all rows of this metric that do not say yet
      </label>
      <span className="text-quiet">
        {method === "remembered"
          ? "Remembered figures are shown apart and enter no comparison."
          : half.trim() === "" && "Without a precision they are shown and take part in no verdict."}
      </span>
    </form>
  );
}
