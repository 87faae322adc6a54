import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "../../../api/client";
import { act } from "../../../api/acts";
import { pairsQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { Seal } from "../../../marks/Seal";
import { apart, bare, figure } from "../../../marks/words";
import { Failed, Loading } from "../../../shell/States";
import { columnOf, testOf } from "../../../api/lookup";
import { useMatrix, useReview } from "../../../api/review";
import { useMay } from "../../../api/session";
import { useVocabulary } from "../../../api/vocabulary";

interface Props {
  onClose: () => void;
}

/** Rows that belong together, with their gap on every configuration; the two are never pooled. */
export function PairsDialog({ onClose }: Props) {
  const may = useMay();
  const review = useReview();
  const query = useQuery(pairsQuery(review.id));
  return (
    <Dialog open onClose={onClose} title="Pairs of tests" wide>
      <p className="mb-3 text-note text-quiet">
        The second against the first, in plain figures; intervals are 95 % from the passes of the two cells.
      </p>
      {query.isPending && <Loading what="Laying the tests side by side" />}
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      {query.data?.length === 0 && (
        <p className="mb-3 font-serif">
          No two tests differ in one setting or in their edition only. Declare a pair by hand below.
        </p>
      )}
      {query.data?.map((pair) => (
        <OnePair key={`${pair.test_a}.${pair.metric_a}.${pair.test_b}.${pair.metric_b}`} pair={pair} />
      ))}
      {may("edit_review") && <Declare />}
    </Dialog>
  );
}

function OnePair({ pair }: { pair: Shapes["PairShape"] }) {
  const may = useMay();
  const review = useReview();
  const run = useAct();
  return (
    <section className="mb-3 border-t border-line pt-1">
      <h3 className="text-note font-semibold">
        {pair.words}{" "}
        <span className="font-normal text-quiet">
          {pair.kind_words}
          {pair.pixel_ratio !== null && `, ${figure(pair.pixel_ratio)} × the pixels`}
          {pair.id === null && ", proposed"}
        </span>
      </h3>
      <table className="text-note">
        <tbody>
          {Object.entries(pair.gaps).map(([column, gap]) => {
            const of = columnOf(review, Number(column));
            return (
              <tr key={column}>
                <th scope="row" className="pr-3 text-left font-normal whitespace-nowrap">
                  {of && <Seal position={of.position} label={of.label} size={16} />} {of?.label}
                </th>
                <td className="pr-3 text-right">
                  {bare(gap.a, pair.unit)} → {bare(gap.b, pair.unit)}
                </td>
                <td className="pr-3 text-right font-semibold">{apart(gap.change, pair.unit)}</td>
                <td className="text-quiet">
                  {gap.low === null || gap.high === null
                    ? "noise unknown"
                    : `${apart(gap.low, pair.unit)} to ${apart(gap.high, pair.unit)}`}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {pair.id !== null && may("edit_review") && (
        <p className="flex gap-3 text-note">
          {pair.kind === "instrument" && (
            <label className="text-quiet">
              counts in verdicts:{" "}
              <select
                value={pair.counts}
                className="border border-line bg-sheet"
                onChange={(event) =>
                  void run(() => act("PATCH", `/api/pairs/${pair.id}`, { counts: event.target.value }), {
                    made: "review",
                  })
                }
              >
                <option value="">not said</option>
                <option value="a">the first</option>
                <option value="b">the second</option>
              </select>
            </label>
          )}
          <Button
            kind="link"
            onClick={() =>
              void run(() => act("DELETE", `/api/pairs/${pair.id}`), {
                said: "The pair is taken off; no figure changes.",
                made: "review",
              })
            }
          >
            Take off
          </Button>
        </p>
      )}
    </section>
  );
}

function Declare() {
  const { pair_kinds: kinds } = useVocabulary();
  const review = useReview();
  const matrix = useMatrix();
  const run = useAct();
  const rows = matrix.rows.map((row) => ({
    key: `${row.test}:${row.metric}`,
    words: `${testOf(review, row.test)?.name}, ${testOf(review, row.test)?.detail}: ${row.label}`,
  }));
  const add = (form: FormData) => {
    const part = (name: string) => String(form.get(name) ?? "").split(":");
    const [testA, metricA] = part("a");
    const [testB, metricB] = part("b");
    const body = {
      kind: form.get("kind"),
      test_a: Number(testA),
      metric_a: metricA,
      test_b: Number(testB),
      metric_b: metricB,
      everywhere: form.get("everywhere") === "on",
    };
    void run(() => act("POST", `/api/reviews/${review.id}/pairs`, body), {
      said: "The two rows are a pair.",
      made: "review",
    });
  };
  const choice = (name: string) => (
    <select name={name}>
      {rows.map((row) => (
        <option key={row.key} value={row.key}>
          {row.words}
        </option>
      ))}
    </select>
  );
  return (
    <details className="border-t border-line pt-1">
      <summary className="text-note">Declare a pair</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add(new FormData(event.currentTarget));
        }}
      >
        <Field label="Kind">
          <select name="kind">
            {Object.entries(kinds).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        <Field label="The first">{choice("a")}</Field>
        <Field label="The second">{choice("b")}</Field>
        <label className="mb-3 flex items-center gap-1.5 text-note">
          <input type="checkbox" name="everywhere" />
          in every test that shows both, where the two are of one test
        </label>
        <Button type="submit">Declare it</Button>
      </form>
    </details>
  );
}
