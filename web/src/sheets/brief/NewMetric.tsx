import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { TestShape } from "../../api/client";
import { sensorsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { useVocabulary } from "../../api/vocabulary";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import type { BriefAct } from "./useBriefAct";

interface Props {
  tests: TestShape[];
  /** What the tests can show already, with their labels. */
  metrics: [string, string][];
  act: BriefAct;
  onDone: () => void;
}

const KINDS: [string, string][] = [
  ["reading", "a reading, or a figure of a sensor"],
  ["worked out", "worked out of two others"],
  ["part", "another metric, in one part of the run"],
  ["toggle", "a setting switched on and off within a run"],
];
const STATISTICS: [string, string][] = [
  ["", "as it is read"],
  ["mean", "mean"],
  ["peak", "peak"],
  ["p95", "95th percentile"],
  ["end", "at the end"],
  ["integral", "over the run"],
];
const BY: [string, string][] = [
  ["ratio", "divided by"],
  ["product", "times"],
  ["difference", "less"],
];

/** A metric that the tests have not: it gets rows, comparisons, targets and columns like all others. */
export function NewMetric({ tests, metrics, act, onDone }: Props) {
  const review = useReview();
  const { spans } = useVocabulary();
  const sensors = useQuery(sensorsQuery(review.id)).data ?? [];
  const [kind, setKind] = useState("reading");
  const [lane, setLane] = useState("");
  const [unit, setUnit] = useState("");
  const [statistic, setStatistic] = useState("");
  const submit = async (form: FormData) => {
    const wanted = Object.fromEntries([...form].filter(([, value]) => value !== ""));
    const saved = await act(
      "POST",
      "/metrics",
      { ...wanted, kind, tests: tests.map((test) => test.id) },
      {
        said: `${String(form.get("label"))} is a metric of these tests now.`,
        undo: (after) => {
          const made = after.tests.find((test) => test.id === tests[0]?.id)?.metrics.at(-1);
          return act("DELETE", `/metrics/${String(made?.key)}`);
        },
      },
    );
    if (saved) onDone();
  };
  const options = (list: [string, string][]) =>
    list.map(([key, words]) => (
      <option key={key} value={key}>
        {words}
      </option>
    ));
  const of = (name: string, label: string) => (
    <Field label={label}>
      <select name={name}>{options(metrics)}</select>
    </Field>
  );
  return (
    <form
      className="mt-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit(new FormData(event.currentTarget));
      }}
    >
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Field label="What it is">
          <select value={kind} onChange={(event) => setKind(event.target.value)}>
            {options(KINDS)}
          </select>
        </Field>
        <Field
          label="Its name"
          hint={kind === "reading" ? "With its place: package power, wall power, surface." : undefined}
        >
          <input name="label" required maxLength={60} />
        </Field>
      </div>
      {kind === "reading" && (
        <div className="grid gap-x-3 sm:grid-cols-3">
          <Field label="Sensor, where one is recorded" hint="Left empty, it is typed.">
            <input
              name="lane"
              list="sensors"
              maxLength={80}
              value={lane}
              onChange={(event) => {
                setLane(event.target.value);
                const known = sensors.find((one) => one.name === event.target.value);
                if (known && !unit) setUnit(known.unit);
                if (event.target.value && !statistic) setStatistic("mean");
              }}
            />
            <datalist id="sensors">
              {sensors.map((one) => (
                <option key={`${one.name} ${one.unit}`} value={one.name}>
                  {one.unit}
                </option>
              ))}
            </datalist>
          </Field>
          <Field label="Which figure of it">
            <select name="statistic" value={statistic} onChange={(event) => setStatistic(event.target.value)}>
              {options(STATISTICS)}
            </select>
          </Field>
          <Field label="Unit">
            <input
              name="unit"
              maxLength={20}
              value={unit}
              onChange={(event) => setUnit(event.target.value)}
            />
          </Field>
        </div>
      )}
      {kind === "worked out" && (
        <div className="grid gap-x-3 sm:grid-cols-4">
          {of("of", "This")}
          <Field label="how">
            <select name="by">{options(BY)}</select>
          </Field>
          {of("other", "that")}
          <Field label="Unit">
            <input name="unit" maxLength={20} placeholder="fps/W" />
          </Field>
        </div>
      )}
      {(kind === "part" || kind === "toggle") && (
        <div className="grid gap-x-3 sm:grid-cols-3">
          {of("of", "Of this metric")}
          <Field label={kind === "part" ? "In parts marked" : "On is marked"}>
            <input name="label_on" required list="parts" maxLength={60} />
          </Field>
          {kind === "toggle" && (
            <Field label="Off is marked">
              <input name="label_off" required list="parts" maxLength={60} />
            </Field>
          )}
          <datalist id="parts">
            {spans.map((one) => (
              <option key={one} value={one} />
            ))}
          </datalist>
        </div>
      )}
      {(kind === "reading" || kind === "worked out") && (
        <div className="grid gap-x-3 sm:grid-cols-2">
          <Field label="Better is">
            <select name="direction" defaultValue={kind === "reading" ? "lower" : "higher"} key={kind}>
              <option value="higher">higher</option>
              <option value="lower">lower</option>
              <option value="neither">neither</option>
            </select>
          </Field>
          <Field label="Compared" hint="Temperatures and shares by what they differ, the rest as a ratio.">
            <select
              name="scale"
              key={unit}
              defaultValue={["°C", "%", "dB(A)"].includes(unit) ? "difference" : "ratio"}
            >
              <option value="ratio">as a ratio</option>
              <option value="difference">as a difference</option>
            </select>
          </Field>
        </div>
      )}
      <div className="flex gap-3">
        <Button kind="strong" type="submit" disabled={!tests.length}>
          Add it to these tests
        </Button>
        <Button onClick={onDone}>Not now</Button>
      </div>
    </form>
  );
}
