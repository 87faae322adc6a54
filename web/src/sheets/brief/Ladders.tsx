import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { laddersQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { CreateDialog } from "../../design/CreateDialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";
import { LadderTable } from "../ladders/LadderTable";

type Ladder = Shapes["LadderShape"];

/** Tests that ask less and less, tried downwards until one meets its targets: the recommended settings. */
export function Ladders() {
  const review = useReview();
  const may = useMay();
  const run = useAct();
  const ladders = useQuery(laddersQuery(review.id));
  const [making, setMaking] = useState(false);
  const groups = workloadsWithRungs(review.tests);
  if (!ladders.data?.length && !(groups.length && may("edit_review"))) return null;
  const remove = (ladder: Ladder) =>
    run(() => act("DELETE", `/api/ladders/${ladder.id}`), {
      said: `${ladder.name} is no ladder any more; its tests stay.`,
      made: "review",
      undo: () =>
        act("POST", `/api/reviews/${review.id}/ladders`, { name: ladder.name, tests: ladder.tests }),
    });
  const descend = (ladder: Ladder) => {
    const columns = openColumns(ladder);
    return run(
      () =>
        act<Shapes["DescentShape"]>("POST", `/api/ladders/${ladder.id}/descent`, {
          columns,
          passes: review.passes_per_test,
        }),
      {
        said: `${ladder.name} is tried downwards on ${count(columns.length, "configuration")}.`,
        made: "docket",
        undo: () => act("DELETE", `/api/ladders/${ladder.id}/descent`),
      },
    );
  };
  const acts = (ladder: Ladder) => {
    const going = Object.values(ladder.cells).some((cell) => cell.going);
    return (
      <span className="mt-0.5 flex flex-wrap gap-x-3 text-small">
        {may("ask_for_passes") && openColumns(ladder).length > 0 && !going && (
          <Button kind="link" className="text-small" onClick={() => void descend(ladder)}>
            try it downwards
          </Button>
        )}
        {may("ask_for_passes") && going && (
          <Button
            kind="link"
            className="text-small"
            onClick={() =>
              void run(() => act("DELETE", `/api/ladders/${ladder.id}/descent`), {
                said: "No further rung is asked for by itself; what is owed stays.",
                made: "docket",
              })
            }
          >
            stop here
          </Button>
        )}
        {may("edit_review") && (
          <Button kind="link" className="text-small" onClick={() => void remove(ladder)}>
            no ladder
          </Button>
        )}
      </span>
    );
  };
  return (
    <section aria-label="Ladders">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-serif text-lead font-semibold">Recommended settings</h2>
        {may("edit_review") && groups.length > 0 && (
          <Button onClick={() => setMaking(true)}>Make a ladder</Button>
        )}
      </div>
      {ladders.isError && (
        <p role="alert" className="text-note text-mark">
          {ladders.error.message}
        </p>
      )}
      {ladders.data?.length ? (
        <LadderTable ladders={ladders.data} acts={acts} />
      ) : (
        <p className="text-note text-quiet">
          A ladder of tests finds the most demanding settings that still meet the target, for each
          configuration.
        </p>
      )}
      {making && <MakeLadder onClose={() => setMaking(false)} />}
    </section>
  );
}

/** Configurations on which a rung is still to be tried. */
export function openColumns(ladder: Pick<Ladder, "cells">): number[] {
  return Object.entries(ladder.cells)
    .filter(([, cell]) => cell.next !== null)
    .map(([column]) => Number(column));
}

interface Rung {
  id: number;
  workload: number;
  name: string;
  detail: string;
}

/** Tests by their workload, where a workload has two or more. */
export function workloadsWithRungs<T extends Rung>(tests: T[]): T[][] {
  const groups = new Map<number, T[]>();
  for (const test of tests) groups.set(test.workload, [...(groups.get(test.workload) ?? []), test]);
  return [...groups.values()].filter((own) => own.length > 1);
}

function MakeLadder({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const run = useAct();
  const groups = workloadsWithRungs(review.tests);
  const [chosen, setChosen] = useState<number[]>([]);
  const workload = review.tests.find((test) => test.id === chosen[0])?.workload;
  const [first] = groups;
  return (
    <CreateDialog
      title="A ladder of tests"
      path={`/api/reviews/${review.id}/ladders`}
      submit={chosen.length > 1 ? `Make it of ${count(chosen.length, "test")}` : "Make it"}
      bodyOf={(form) => ({ name: form.get("name"), tests: chosen })}
      onMade={() => {
        void run(() => Promise.resolve(), { said: "The ladder is made.", made: "review" });
        onClose();
      }}
      onClose={onClose}
    >
      <p className="mb-2 text-note text-quiet">
        Choose the tests in order, the most demanding first. It is tried downwards: the next one is owed once
        the one before has missed its target.
      </p>
      {groups.map((tests) => (
        <fieldset key={tests[0]?.workload} className="mb-3 text-note">
          <legend className="font-semibold">
            {tests[0]?.name}{" "}
            <Button
              kind="link"
              className="text-small font-normal"
              onClick={() => setChosen(tests.map((test) => test.id))}
            >
              all, in this order
            </Button>
          </legend>
          {tests.map((test) => (
            <label key={test.id} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={chosen.includes(test.id)}
                disabled={workload !== undefined && workload !== test.workload}
                onChange={() =>
                  setChosen(
                    chosen.includes(test.id) ? chosen.filter((id) => id !== test.id) : [...chosen, test.id],
                  )
                }
              />
              {test.detail || test.name}
              {chosen.includes(test.id) && (
                <span className="text-quiet">rung {chosen.indexOf(test.id) + 1}</span>
              )}
            </label>
          ))}
        </fieldset>
      ))}
      <Field label="What it is called">
        <input name="name" maxLength={80} placeholder={first?.[0]?.name} />
      </Field>
    </CreateDialog>
  );
}
