import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { editReview } from "../../api/acts";
import type { ReviewShape, Shapes } from "../../api/client";
import { keys, planQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { count, duration } from "../../marks/words";
import type { Opened } from "./opened";
import { useBriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";

interface Props {
  onOpen: (next: Opened) => void;
  /** Light up the row or test that a point is about. */
  onLight: (what: string | null) => void;
}

/** A configuration that changes one factor alone, as the configuration `like` has it. */
interface Combination {
  factor: string;
  like: number;
}

const SIGNS: Record<string, string> = { stops: "■", warns: "⚑", notes: "·" };
const MENDS: Record<string, string> = {
  add_column: "Add a configuration",
  combination: "Add what is missing",
  add_test: "Add tests",
  differences: "Show it",
  equal: "Show it",
  expectation: "Write it",
  configuration: "Open the configuration",
  price: "Open the shelf",
  test: "Show the test",
  margin: "Edit the margin",
  target: "Write it",
  return: "Measure it again at the end",
};

/** What the plan cannot answer as it stands, in words, each with one click to where it is mended; and its cost. */
export function PlanCheck({ onOpen, onLight }: Props) {
  const may = useMay()("edit_review");
  const review = useReview();
  const plan = useQuery(planQuery(review.id));
  const client = useQueryClient();
  const navigate = useNavigate();
  const run = useAct();
  const brief = useBriefAct(review);
  const change = async (changes: Partial<ReviewShape>, said: string) => {
    const saved = await run(() => editReview(review.id, review.version, changes), { said, made: "review" });
    if (saved) client.setQueryData(keys.review(review.id), saved);
  };
  const combine = async (missing: Combination[]) => {
    for (const one of missing) {
      const added = await brief("POST", "/combination", one, {
        said: "The missing configuration is added.",
        undo: (after) => brief("DELETE", `/columns/${after.columns.at(-1)?.id}`),
      });
      if (!added) return;
    }
  };
  const light = (what: string, place: string) => {
    onLight(what);
    document.querySelector(place)?.scrollIntoView({ block: "center" });
  };
  const mend = (point: Shapes["PlanPoint"]) => {
    const about = point.about as Record<string, number | string>;
    const column = review.columns.find((one) => one.id === about.column);
    if (point.mend === "add_column") return onOpen("column");
    if (point.mend === "add_test") return onOpen("tests");
    if (["expectation", "margin", "target"].includes(point.mend)) return onOpen("edit");
    if (point.mend === "combination") return void combine(point.about.combinations as Combination[]);
    if (point.mend === "passes") {
      return void change(
        { passes_per_test: Number(about.passes) },
        `${about.passes} passes per test are planned.`,
      );
    }
    if (point.mend === "return") {
      return void change({ returns_to_baseline: true }, "The baseline is measured again at the end.");
    }
    if (point.mend === "price") return void navigate("/shelf");
    if (point.mend === "configuration" && column) {
      return void navigate(`/systems/${column.system_id}?configuration=${column.configuration_id}`);
    }
    if (about.test) return light(`test-${about.test}`, '[aria-label="Tests"]');
    const aspect = String(about.aspect ?? "");
    // A point about the table as a whole leads to the table.
    light(aspect, aspect ? `[data-aspect="${CSS.escape(aspect)}"]` : '[aria-label="Configurations"]');
  };
  if (plan.isError) return <p role="alert">{plan.error.message}</p>;
  if (!plan.data) return <p className="text-quiet">Checking the plan …</p>;
  const { points, cost } = plan.data;
  return (
    <section aria-label="Plan check" className="mb-6">
      <h2 className="font-serif text-lead font-semibold">Plan check</h2>
      <p className="mb-1 text-note text-quiet" role="status">
        {points.length ? count(points.length, "point") : "Nothing speaks against this plan."}
      </p>
      <ol className="border-t border-line">
        {points.map((point, at) => (
          <li key={at} className="flex gap-2 border-b border-line py-1.5 text-note">
            <span aria-hidden="true" className={point.severity === "notes" ? "text-quiet" : "text-mark"}>
              {SIGNS[point.severity]}
            </span>
            <div>
              <p className={point.severity === "stops" ? "font-semibold" : ""}>
                <span className="sr-only">{point.severity}: </span>
                {point.words}
              </p>
              {(may ||
                ![
                  "passes",
                  "return",
                  "combination",
                  "add_column",
                  "add_test",
                  "expectation",
                  "margin",
                ].includes(point.mend)) && (
                <Button kind="link" className="text-small" onClick={() => mend(point)} title={point.remedy}>
                  {point.mend === "passes" ? point.remedy.replace(/\.$/, "") : MENDS[point.mend]}
                </Button>
              )}
            </div>
          </li>
        ))}
      </ol>
      <h3 className="mt-3 text-note font-semibold">What it takes</h3>
      {cost.passes === 0 ? (
        <p className="text-note">
          {review.columns.length && review.tests.length
            ? "Every planned pass has been run."
            : "Nothing to run is planned yet."}
        </p>
      ) : (
        <p className="font-serif" title={cost.words.join("; ")}>
          {count(cost.passes, "pass")} in about <strong>{duration(cost.running_s + cost.changing_s)}</strong>:{" "}
          {duration(cost.running_s)} of running
          {cost.changing_s > 0 &&
            `, ${duration(cost.changing_s)} of changing with ${count(cost.openings, "opening")} and ${count(cost.firmware, "visit")} to the firmware`}
          .
        </p>
      )}
      {cost.passes > 0 && <p className="mt-0.5 text-small text-quiet">{cost.words.join("; ")}.</p>}
    </section>
  );
}
