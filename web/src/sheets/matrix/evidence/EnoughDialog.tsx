import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { enoughQuery } from "../../../api/queries";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { Seal } from "../../../marks/Seal";
import { figure } from "../../../marks/words";
import { Loading } from "../../../shell/States";
import { columnOf, testOf } from "../../../api/lookup";
import { useReview } from "../../../api/review";
import { TableHead } from "../../../design/TableHead";

interface Props {
  onClose: () => void;
}

/** The memory that the tests of the review ask for, with a reserve, against the sizes on offer. */
export function EnoughDialog({ onClose }: Props) {
  const review = useReview();
  const [quantity, setQuantity] = useState("graphics memory used");
  const [reserve, setReserve] = useState(20);
  const [idle, setIdle] = useState(false);
  const query = useQuery(enoughQuery(review.id, quantity, reserve, idle));
  return (
    <Dialog open onClose={onClose} title="How much memory is enough" wide>
      <div className="grid gap-x-4 sm:grid-cols-3">
        <Field label="Memory">
          <select value={quantity} onChange={(event) => setQuantity(event.target.value)}>
            <option value="graphics memory used">graphics memory</option>
            <option value="memory used">main memory</option>
            <option value="storage used">storage</option>
          </select>
        </Field>
        <Field label="Reserve in %">
          <input
            type="number"
            min={0}
            max={200}
            value={reserve}
            onChange={(event) => setReserve(Math.max(0, Number(event.target.value)))}
          />
        </Field>
        <label className="flex items-center gap-1.5 pt-4 text-note">
          <input type="checkbox" checked={idle} onChange={(event) => setIdle(event.target.checked)} />
          also over the idle baseline
        </label>
      </div>
      {query.isPending && <Loading what="Reading the use of memory" />}
      {query.isError && <p className="font-serif">{query.error.message}</p>}
      {query.data && (
        <>
          <p className="mb-2 font-serif text-lead">{query.data.words}.</p>
          <p className="mb-2 text-note text-quiet">
            Sizes on offer,{" "}
            {query.data.sizes_from === "levels" ? "the levels of the factor" : "from the shelf"}:{" "}
            {query.data.sizes.map((size) => figure(size)).join(", ") || "none"} GB.
          </p>
          {idle && query.data.idle === null && (
            <p className="mb-2 text-note text-quiet">No idle baseline was run in this review.</p>
          )}
          <table className="w-full text-note">
            <TableHead
              columns={[
                "test",
                "on",
                { label: "peak", right: true },
                { label: "95 % of the time under", right: true },
                ...(idle ? [{ label: "over idle", right: true }] : []),
                "there",
              ]}
            />
            <tbody>
              {query.data.uses.map((use) => {
                const test = testOf(review, use.test);
                const column = columnOf(review, use.column);
                return (
                  <tr key={use.test} className="border-t border-line">
                    <th scope="row" className="text-left font-normal">
                      {test?.name}, {test?.detail}
                    </th>
                    <td>{column && <Seal position={column.position} label={column.label} size={16} />}</td>
                    <td className="text-right font-semibold">{figure(use.peak)} GB</td>
                    <td className="text-right">
                      {use.typed ? <span className="text-quiet">typed in</span> : `${figure(use.p95)} GB`}
                    </td>
                    {idle && (
                      <td className="text-right">{use.added === null ? "" : `${figure(use.added)} GB`}</td>
                    )}
                    <td className="pl-4 text-quiet">
                      {use.capacity !== null && `of ${figure(use.capacity)} GB`}
                      {use.cut_off && ", cut off: more was wanted"}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </>
      )}
    </Dialog>
  );
}
