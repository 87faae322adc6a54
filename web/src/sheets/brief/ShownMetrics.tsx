import { tagOf } from "../../api/acts";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { TestShape, WorkloadShape } from "../../api/client";
import { workloadsQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { count } from "../../marks/words";
import { NewMetric } from "./NewMetric";
import { useBriefAct } from "./useBriefAct";

/** What the frames of any test can show. */
export const FRAMES: [string, string][] = [
  ["average_fps", "average"],
  ["low_1pct", "1 % low"],
  ["low_01pct", "0.1 % low"],
  ["p99_ms", "99th percentile frame time"],
  ["hitch_rate_per_min", "hitches per minute"],
  ["pacing_unevenness_pct", "pacing unevenness"],
];

/** Metrics shown in many tests at once: ticked in all of them, in some, or in none. */
export function ShownMetrics({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const act = useBriefAct(review);
  const workloads = useQuery(workloadsQuery(true)).data ?? [];
  const [tests, setTests] = useState<number[]>(review.tests.map((test) => test.id));
  const [wanted, setWanted] = useState<Record<string, boolean>>({});
  const [adding, setAdding] = useState(false);
  const own = new Set(review.tests.flatMap((test) => test.metrics.map((metric) => String(metric.key))));
  const chosen = review.tests.filter((test) => tests.includes(test.id));
  const add = Object.keys(wanted).filter((key) => wanted[key]);
  const remove = Object.keys(wanted).filter((key) => !wanted[key]);
  const before = chosen.map((test) => [test.id, test.shown] as const);
  const save = async () => {
    const saved = await act(
      "PUT",
      "/tests/shown",
      { tests, add, remove },
      {
        said: `What ${count(chosen.length, "test")} show is changed.`,
        undo: async (saved) => {
          for (const [id, shown] of before)
            await act("PATCH", `/tests/${id}`, { shown }, { tag: tagOf(saved, id) });
        },
      },
    );
    if (saved) onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Metrics of many tests" wide>
      <div className="grid gap-6 sm:grid-cols-2">
        <fieldset className="text-note">
          <legend className="mb-1 font-semibold">In these tests</legend>
          <p className="mb-1">
            <Button kind="link" onClick={() => setTests(review.tests.map((test) => test.id))}>
              all
            </Button>{" "}
            <Button kind="link" onClick={() => setTests([])}>
              none
            </Button>
          </p>
          <div className="max-h-72 overflow-auto">
            {review.tests.map((test) => (
              <label key={test.id} className="flex items-baseline gap-1.5">
                <input
                  type="checkbox"
                  checked={tests.includes(test.id)}
                  onChange={() =>
                    setTests((all) =>
                      all.includes(test.id) ? all.filter((one) => one !== test.id) : [...all, test.id],
                    )
                  }
                />
                <span>
                  {test.name} <span className="text-quiet">{test.detail}</span>
                </span>
              </label>
            ))}
          </div>
        </fieldset>
        <fieldset className="text-note">
          <legend className="mb-1 font-semibold">Show</legend>
          {metricsOf(chosen, workloads).map(([key, label]) => {
            const showing = chosen.filter((test) => test.shown.includes(key)).length;
            const all = showing === chosen.length && chosen.length > 0;
            return (
              <label key={key} className="flex items-baseline gap-1.5">
                <input
                  type="checkbox"
                  checked={wanted[key] ?? all}
                  onChange={(event) => setWanted({ ...wanted, [key]: event.target.checked })}
                />
                {label}
                {own.has(key) && (
                  <Button
                    kind="link"
                    className="text-small"
                    onClick={() =>
                      void act("DELETE", `/metrics/${key}`, undefined, {
                        said: `${label} is off; figures typed for it stay with their passes.`,
                      })
                    }
                  >
                    take it off for good
                  </Button>
                )}
                {wanted[key] === undefined && showing > 0 && !all && (
                  <span className="text-quiet">in {showing} of them now</span>
                )}
              </label>
            );
          })}
        </fieldset>
      </div>
      {adding ? (
        <NewMetric
          tests={chosen}
          metrics={metricsOf(chosen, workloads)}
          act={act}
          onDone={() => setAdding(false)}
        />
      ) : (
        <p className="mt-3 text-note">
          <Button kind="link" onClick={() => setAdding(true)}>
            A metric that they have not: watts, °C, per watt, a part of the run …
          </Button>
        </p>
      )}
      <div className={adding ? "hidden" : "mt-3 flex gap-3"}>
        <Button
          kind="strong"
          disabled={!chosen.length || !(add.length + remove.length)}
          onClick={() => void save()}
        >
          Change {count(chosen.length, "test")}
        </Button>
        <Button onClick={onClose}>Leave as it is</Button>
      </div>
    </Dialog>
  );
}

/** Every metric that one of some tests can show, once. */
export function metricsOf(tests: TestShape[], workloads: WorkloadShape[]): [string, string][] {
  const own = workloads
    .filter((one) => tests.some((test) => test.workload === one.id))
    .flatMap((one) =>
      one.metrics.map((metric): [string, string] => [String(metric.key), String(metric.label)]),
    );
  const added = tests
    .flatMap((test) => test.metrics)
    .map((metric): [string, string] => [String(metric.key), String(metric.label)]);
  return [...new Map([...FRAMES, ...own, ...added])];
}
