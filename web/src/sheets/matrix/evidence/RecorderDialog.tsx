import { useQuery } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { act } from "../../../api/acts";
import { recorderQuery } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { count, fixed, signed } from "../../../marks/words";
import { Loading } from "../../../shell/States";
import { useReview } from "../../../api/review";
import { useMay } from "../../../api/session";
import { ConfigurationOptions } from "../../ConfigurationOptions";

interface Props {
  onClose: () => void;
}

/** What recording costs, by pairs of passes without and with the recorder; and a way to run such pairs. */
export function RecorderDialog({ onClose }: Props) {
  const may = useMay();
  const review = useReview();
  const query = useQuery(recorderQuery(review.id));
  const run = useAct();
  const ask = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const body = Object.fromEntries([...form.entries()].map(([key, value]) => [key, Number(value)]));
    void run(() => act("POST", `/api/reviews/${review.id}/recorder`, body), {
      said: "The pairs are on the docket, without and with the recorder in turns.",
      made: "docket",
    });
  };
  const found = query.data;
  return (
    <Dialog open onClose={onClose} title="What recording costs" wide>
      {query.isPending && <Loading what="Reading the pairs" />}
      {query.isError && <p className="text-mark">{query.error.message}</p>}
      {found && (
        <>
          {!found.length && (
            <p className="mb-2 font-serif text-lead">No pair of passes has been run without and with it.</p>
          )}
          {found.map((group) => (
            <p key={`${group.workload} ${group.metric}`} className="mb-1 font-serif text-lead">
              {group.workload}, {group.label}:{" "}
              {group.k !== null && group.change_pct !== null
                ? `recording changes it by ${signed(group.change_pct, 2)} % (k = ${fixed(group.k, 4)}, over ${count(group.tests.length, "test")}).`
                : `no correction for all its tests: ${group.refused}.`}
            </p>
          ))}
          <table className="mb-3 text-note">
            <tbody>
              {found
                .flatMap((group) => group.tests.map((one) => ({ ...one, label: group.label })))
                .map((one) => (
                  <tr key={`${one.test} ${one.label}`}>
                    <th scope="row" className="pr-3 text-left font-normal">
                      {one.name}, {one.label}
                    </th>
                    <td className="pr-3 text-right font-semibold">{signed(one.change_pct, 2)} %</td>
                    <td className="text-quiet">
                      {one.low === null || one.high === null
                        ? "one pair, so no interval"
                        : `${signed(100 * (one.low - 1), 2)} to ${signed(100 * (one.high - 1), 2)} %, ${count(one.pairs, "pair")}`}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </>
      )}
      <p className="mb-3 text-note text-quiet">
        The passes of a pair are not averaged. The correction is never applied to raw data; the Figures lens
        can show what the figures would be without the recorder, and says so.
      </p>
      {may("ask_for_passes") && (
        <form onSubmit={ask}>
          <div className="grid gap-x-4 sm:grid-cols-3">
            <Field label="Test">
              <select name="test">
                {review.tests.map((test) => (
                  <option key={test.id} value={test.id}>
                    {test.name}, {test.detail}
                  </option>
                ))}
              </select>
            </Field>
            <Field label="Configuration">
              <select name="column">
                <ConfigurationOptions review={review} />
              </select>
            </Field>
            <Field label="Pairs">
              <input name="pairs" type="number" min={1} max={10} defaultValue={3} />
            </Field>
          </div>
          <Button type="submit">Put the pairs on the docket</Button>
        </form>
      )}
    </Dialog>
  );
}
