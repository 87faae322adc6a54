import { tagOf } from "../../api/acts";
import { useState } from "react";
import type { TestShape } from "../../api/client";
import { Button } from "../../design/Button";
import { KeepInSet } from "../../places/standings/sets/KeepInSet";
import { CopyTest } from "./CopyTest";
import { EditTest } from "./EditTest";
import { ShownMetrics } from "./ShownMetrics";
import { useBriefAct, type BriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";

export const ISOLATES: [string, string][] = [
  ["", "nothing in particular"],
  ["processor", "the processor"],
  ["threads", "one or all threads"],
  ["graphics", "the graphics"],
  ["memory", "the memory"],
  ["storage", "the storage"],
  ["cooling", "the cooling"],
  ["all", "everything at once"],
];

interface Props {
  lit: string | null;
  onAdd: () => void;
}

/** The tests in their order; dragged, or moved by the keys beside them. */
export function Tests({ lit, onAdd }: Props) {
  const may = useMay()("edit_review");
  const review = useReview();
  const act = useBriefAct(review);
  const [dragged, setDragged] = useState<number | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const order = review.tests.map((test) => test.id);
  const moveTo = (test: number, at: number) => {
    const next = order.filter((id) => id !== test);
    next.splice(at, 0, test);
    if (next.join() === order.join()) return;
    void act(
      "PUT",
      "/tests",
      { order: next },
      {
        said: "The tests are reordered.",
        undo: () => act("PUT", "/tests", { order }),
      },
    );
  };
  return (
    <section aria-label="Tests">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-serif text-lead font-semibold">Tests</h2>
        {may && (
          <span className="flex gap-2">
            {review.tests.length > 0 && <Button onClick={() => setKeeping(true)}>Keep as a set</Button>}
            {review.tests.length > 0 && <Button onClick={() => setChoosing(true)}>Metrics</Button>}
            <Button onClick={onAdd}>Add tests</Button>
          </span>
        )}
        {keeping && (
          <KeepInSet
            what={{ review: review.id }}
            words="All tests of this review, each with what it shows first, as far as that has a ratio with a better end."
            onClose={() => setKeeping(false)}
          />
        )}
        {choosing && <ShownMetrics onClose={() => setChoosing(false)} />}
      </div>
      {review.tests.length === 0 && (
        <p className="text-note text-quiet">No test yet. A test is a workload with its settings.</p>
      )}
      <ol className="border-t border-line">
        {review.tests.map((test, at) => (
          <li
            key={test.id}
            draggable={may}
            onDragStart={() => setDragged(test.id)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => dragged !== null && moveTo(dragged, at)}
            className={`border-b border-line py-1.5 ${lit === `test-${test.id}` ? "bg-band outline-2 outline-mark" : ""}`}
          >
            <TestLine
              test={test}
              act={act}
              onUp={at > 0 ? () => moveTo(test.id, at - 1) : undefined}
              onDown={at < order.length - 1 ? () => moveTo(test.id, at + 1) : undefined}
            />
          </li>
        ))}
      </ol>
    </section>
  );
}

interface LineProps {
  test: TestShape;
  act: BriefAct;
  onUp?: () => void;
  onDown?: () => void;
}

function TestLine({ test, act, onUp, onDown }: LineProps) {
  const may = useMay()("edit_review");
  const [editing, setEditing] = useState(false);
  const [copying, setCopying] = useState(false);
  const name = `${test.name}, ${test.detail}`;
  return (
    <div className="flex items-start gap-3 text-note">
      <div className="min-w-0 flex-1">
        <strong>{test.name}</strong> <span className="text-quiet">{test.version}</span>
        {test.detail && ` · ${test.detail}`}
        <p className="text-quiet">
          {test.procedure}
          {test.skip_s > 0 && ` The first ${test.skip_s} s are cut.`}
          {test.end_cut_s > 0 && ` The last ${test.end_cut_s} s are cut.`}
        </p>
        {copying && <CopyTest test={test} act={act} onClose={() => setCopying(false)} />}
        {editing && <EditTest test={test} onClose={() => setEditing(false)} />}
      </div>
      {may ? (
        <label className="shrink-0 text-small text-quiet">
          meant to be limited by
          <select
            className="block border border-line bg-sheet px-1 py-0.5 text-note text-ink"
            value={test.isolates}
            onChange={(event) =>
              void act(
                "PATCH",
                `/tests/${test.id}`,
                { isolates: event.target.value },
                {
                  said: "Noted.",
                  tag: test.tag,
                  undo: (saved) =>
                    act(
                      "PATCH",
                      `/tests/${test.id}`,
                      { isolates: test.isolates },
                      { tag: tagOf(saved, test.id) },
                    ),
                },
              )
            }
          >
            {ISOLATES.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </label>
      ) : (
        test.isolates && (
          <span className="text-quiet">
            limited by {ISOLATES.find(([key]) => key === test.isolates)?.[1]}
          </span>
        )
      )}
      {may && (
        <span className="flex shrink-0 gap-1">
          <Button kind="bare" aria-label={`Edit ${name}`} onClick={() => setEditing(true)}>
            edit
          </Button>
          <Button
            kind="bare"
            aria-label={`Copy ${name}: put it in another review`}
            title="Put it in another review"
            onClick={() => setCopying(true)}
          >
            copy
          </Button>
          <Button kind="bare" aria-label={`Move ${name} up`} disabled={!onUp} onClick={onUp}>
            ↑
          </Button>
          <Button kind="bare" aria-label={`Move ${name} down`} disabled={!onDown} onClick={onDown}>
            ↓
          </Button>
          <Button
            kind="bare"
            aria-label={`Remove ${name}`}
            title={test.has_passes ? "It has passes, so it stays." : undefined}
            disabled={test.has_passes}
            onClick={() =>
              void act("DELETE", `/tests/${test.id}`, undefined, {
                said: `${name} is out of the review.`,
                undo: () =>
                  act("POST", "/tests", {
                    workload: test.workload,
                    choices: Object.fromEntries(
                      Object.entries(test.settings as Record<string, unknown>).map(([key, value]) => [
                        key,
                        [value],
                      ]),
                    ),
                    isolates: test.isolates,
                  }),
              })
            }
          >
            ×
          </Button>
        </span>
      )}
    </div>
  );
}
