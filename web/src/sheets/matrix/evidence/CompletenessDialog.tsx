import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "../../../api/client";
import { act } from "../../../api/acts";
import { completenessQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { useAct } from "../../../design/useAct";
import { Seal } from "../../../marks/Seal";
import { count } from "../../../marks/words";
import { Failed, Loading } from "../../../shell/States";
import { columnOf, testOf } from "../../../api/lookup";
import { useReview } from "../../../api/review";
import { useMay } from "../../../api/session";

interface Props {
  onClose: () => void;
}

type Hole = Shapes["HoleShape"];

/** What stands between the review and its verdict: holes with their reasons, flags nobody looked at, what is not trusted. */
export function CompletenessDialog({ onClose }: Props) {
  const review = useReview();
  const query = useQuery(completenessQuery(review.id));
  return (
    <Dialog open onClose={onClose} title="What is missing" wide>
      {query.isPending && <Loading what="Looking through the review" />}
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      {query.data && <Found found={query.data} />}
    </Dialog>
  );
}

function Found({ found }: { found: Shapes["CompletenessShape"] }) {
  const may = useMay();
  const review = useReview();
  const run = useAct();
  const reasons = [...new Set(found.holes.map((hole) => hole.reason))];
  const unseen = found.flags.filter((flag) => !flag.looked);
  const look = (flag: Shapes["OpenFlagShape"]) =>
    void run(
      () =>
        act("PUT", `/api/reviews/${review.id}/tests/${flag.test}/columns/${flag.column}/looks`, {
          flag: flag.key,
        }),
      { made: "looks" },
    );
  return (
    <>
      <p className="mb-3 font-serif text-lead">
        {found.done
          ? "Nothing is missing: every cell has its figures, and every flag was looked at."
          : `${found.whole} of ${found.cells} cells are whole; ${count(found.holes.length, "hole")}, ${count(unseen.length, "flag")} not looked at${found.open_hypotheses ? `, ${count(found.open_hypotheses, "explanation")} open` : ""}.`}
      </p>
      {Object.keys(found.targets).length > 0 && (
        <p className="mb-3 text-note">
          Targets:{" "}
          {Object.entries(found.targets)
            .map(([code, times]) => `${times} ${code}`)
            .join(", ")}
          .
        </p>
      )}
      {found.drift.map((words) => (
        <p key={words} className="mb-2 text-note text-mark">
          ⚑ {words}.
        </p>
      ))}
      {reasons.map((reason) => {
        const own = found.holes.filter((hole) => hole.reason === reason);
        return (
          <section key={reason} className="mb-3">
            <h3 className="text-note font-semibold">
              {reason}: {own.length} <span className="font-normal text-quiet">{own[0]?.remedy}</span>
            </h3>
            <ul className="text-note">
              {own.map((hole) => (
                <li
                  key={`${hole.test}.${hole.column}.${hole.metric}.${hole.words}`}
                  className="border-t border-line py-0.5"
                >
                  <Where of={hole} /> <span className="text-quiet">{hole.words}</span>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
      {found.flags.length > 0 && (
        <section className="mb-3">
          <h3 className="text-note font-semibold">Flags</h3>
          <ul className="text-note">
            {found.flags.map((flag) => (
              <li
                key={`${flag.test}.${flag.column}.${flag.words}`}
                className="flex items-baseline gap-2 border-t border-line py-0.5"
              >
                <span>
                  <Where of={flag} />{" "}
                  <span className={flag.looked ? "text-quiet" : "text-mark"}>⚑ {flag.words}</span>
                </span>
                <span className="ml-auto shrink-0 text-quiet">
                  {flag.looked ? (
                    `looked at by ${flag.looked}`
                  ) : may("set_aside") ? (
                    <Button kind="link" onClick={() => look(flag)}>
                      I have looked
                    </Button>
                  ) : (
                    "nobody has looked"
                  )}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {found.untrusted.length > 0 && (
        <section>
          <h3 className="text-note font-semibold">Not trusted</h3>
          <ul className="text-note">
            {found.untrusted.map((one) => (
              <li key={`${one.test}.${one.metric}`} className="border-t border-line py-0.5">
                {testOf(review, one.test)?.name}, {one.label}: {one.reason}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

function Where({ of }: { of: Pick<Hole, "test" | "column"> }) {
  const review = useReview();
  const test = testOf(review, of.test);
  const column = columnOf(review, of.column);
  return (
    <>
      {column && <Seal position={column.position} label={column.label} size={16} />} {column?.label},{" "}
      {test?.name}
      {test?.detail && `, ${test.detail}`}:
    </>
  );
}
