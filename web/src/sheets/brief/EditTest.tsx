import { useState } from "react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { act } from "../../api/acts";
import type { ReviewShape, TestShape } from "../../api/client";
import { keys, workloadsQuery } from "../../api/queries";
import { refresh } from "../../api/stale";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { VersionedForm } from "../../design/VersionedForm";
import { metricsOf } from "./ShownMetrics";
import { Bundles } from "../../places/system/Bundles";
import { useReview } from "../../api/review";

/** The targets as they stand in the form: an empty field leaves the brief's. */
export function targetsOf(form: FormData, test: Pick<TestShape, "shown" | "targets">) {
  const own: Record<string, unknown> = Object.fromEntries(
    Object.entries(test.targets).filter(([key]) => !test.shown.includes(key)),
  );
  for (const key of test.shown) {
    const typed = String(form.get(`target-${key}`) ?? "").trim();
    if (typed === "-") own[key] = null;
    else if (typed) own[key] = Number(typed.replace(",", "."));
  }
  return own;
}

const WORDS = {
  skip_s: "Warm-up cut in s",
  end_cut_s: "End cut in s",
  shown: "Shown in the matrix",
  targets: "Targets of this test",
  power: "Power is told by",
  settings: "Settings",
};
const WATTS = ["W", "mW", "kW"];
const POWER = [
  ["wall power", "a meter at the wall"],
  ["power", "the package"],
  ["graphics power", "the graphics card"],
] as const;

interface Props {
  test: TestShape;
  onClose: () => void;
}

/** A test's cuts, what the matrix shows of it, and, as long as it has no pass, its settings. */
export function EditTest({ test, onClose }: Props) {
  const review = useReview();
  const workload = useQuery(workloadsQuery(true)).data?.find((one) => one.id === test.workload);
  const client = useQueryClient();
  const [began] = useState(test);
  // Settings as they stand in the form; a bundle fills in its own.
  const [filled, setFilled] = useState(test.settings as Record<string, unknown>);
  const metrics = metricsOf([test], workload ? [workload] : []);
  const inWatts = [...(workload?.metrics ?? []), ...test.metrics]
    .filter((metric) => WATTS.includes(String(metric.unit)))
    .map((metric) => [String(metric.key), String(metric.label)] as const);
  const store = async (tag: string, changes: Partial<TestShape>) => {
    const path = `/api/reviews/${review.id}/tests/${test.id}`;
    const saved = await act<ReviewShape>("PATCH", path, changes, tag);
    client.setQueryData(keys.review(review.id), saved);
    return saved.tests.find((one) => one.id === test.id) ?? test;
  };
  const changesOf = (form: FormData): Partial<TestShape> => {
    const changes: Partial<TestShape> = {
      skip_s: Number(form.get("skip_s")),
      end_cut_s: Number(form.get("end_cut_s")),
      shown: form.getAll("shown").map(String),
      targets: targetsOf(form, test),
      power: String(form.get("power") ?? ""),
    };
    if (!test.has_passes) {
      changes.settings = Object.fromEntries(
        (workload?.settings ?? [])
          .map((one) => [String(one.key), form.get(`setting-${String(one.key)}`)] as const)
          .filter(([, value]) => value !== null && value !== "")
          .map(([key, value]) => [key, Number.isFinite(Number(value)) ? Number(value) : value]),
      );
    }
    return changes;
  };
  return (
    <Dialog open onClose={onClose} title={`${test.name}, ${test.detail}`}>
      <VersionedForm
        began={began}
        version={(one) => one.tag}
        store={store}
        label={`${test.name}, ${test.detail}`}
        changesOf={changesOf}
        words={WORDS}
        onSaved={() => void refresh(client, "review")}
        onClose={onClose}
      >
        {workload && !test.has_passes && workload.settings.length > 1 && (
          <p className="mb-2 flex gap-4 text-note">
            <Bundles
              workload={workload.key}
              chosen={Object.fromEntries(
                Object.entries(filled)
                  .filter(([, value]) => value !== "")
                  .map(([key, value]) => [key, Number.isFinite(Number(value)) ? Number(value) : value]),
              )}
              labelOf={(key) => String(workload.settings.find((one) => one.key === key)?.label ?? key)}
              onTake={(taken) => setFilled({ ...filled, ...taken })}
            />
          </p>
        )}
        {(workload?.settings ?? []).map((one) => {
          const key = String(one.key);
          const value = String(filled[key] ?? "");
          const type = (typed: string) => setFilled({ ...filled, [key]: typed });
          return (
            <Field key={key} label={`${String(one.label)}${one.unit ? ` in ${String(one.unit)}` : ""}`}>
              {Array.isArray(one.values) ? (
                <select
                  name={`setting-${key}`}
                  value={value}
                  onChange={(event) => type(event.target.value)}
                  disabled={test.has_passes}
                >
                  <option value="">not said</option>
                  {one.values.map((choice) => (
                    <option key={String(choice)}>{String(choice)}</option>
                  ))}
                </select>
              ) : (
                <input
                  name={`setting-${key}`}
                  value={value}
                  onChange={(event) => type(event.target.value)}
                  disabled={test.has_passes}
                />
              )}
            </Field>
          );
        })}
        {test.has_passes && (
          <p className="mb-3 text-note text-quiet">
            Its passes ran with these settings and were computed with these cuts, so both stay; for other
            ones, add a test.
          </p>
        )}
        <div className="grid grid-cols-2 gap-3">
          <Field label="Warm-up cut in s">
            <input
              name="skip_s"
              type="number"
              min="0"
              step="any"
              required
              defaultValue={test.skip_s}
              readOnly={test.has_passes}
            />
          </Field>
          <Field label="End cut in s">
            <input
              name="end_cut_s"
              type="number"
              min="0"
              step="any"
              required
              defaultValue={test.end_cut_s}
              readOnly={test.has_passes}
            />
          </Field>
        </div>
        <fieldset className="mb-3 text-note">
          <legend className="font-semibold">Shown in the matrix</legend>
          {metrics.map(([key, words]) => (
            <label key={key} className="flex items-center gap-1.5">
              <input type="checkbox" name="shown" value={key} defaultChecked={test.shown.includes(key)} />
              {words}
            </label>
          ))}
        </fieldset>
        <Field label="Power is told by" hint="Sources are never mixed within a test.">
          <select name="power" defaultValue={test.power}>
            <option value="">what most passes have</option>
            {POWER.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
            {inWatts.map(([key, words]) => (
              <option key={key} value={key}>
                the reading {words}
              </option>
            ))}
          </select>
        </Field>
        <fieldset className="mb-3 text-note">
          <legend className="font-semibold">Targets of this test</legend>
          <p className="mb-1 text-quiet">Left empty, the brief&rsquo;s hold. A dash is for none.</p>
          {test.shown.map((key) => (
            <label key={key} className="mb-1 flex items-center gap-2">
              <span className="w-48">{metrics.find(([known]) => known === key)?.[1] ?? key}</span>
              <input
                name={`target-${key}`}
                defaultValue={key in test.targets ? String(test.targets[key] ?? "-") : ""}
                pattern="-|[+\-]?[0-9]*[.,]?[0-9]+"
                title="A number, a dash for none, or nothing"
                className="w-28 border border-ink bg-sheet px-2 py-0.5 text-body"
              />
            </label>
          ))}
        </fieldset>
      </VersionedForm>
    </Dialog>
  );
}
