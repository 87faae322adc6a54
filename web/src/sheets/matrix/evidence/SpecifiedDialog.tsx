import { useQuery } from "@tanstack/react-query";
import type { SpecifiedShape } from "../../../api/client";
import { specifiedQuery } from "../../../api/queries";
import { Dialog } from "../../../design/Dialog";
import { Seal } from "../../../marks/Seal";
import { count, withUnit } from "../../../marks/words";
import { Failed, Loading } from "../../../shell/States";
import { testOf } from "../../../api/lookup";
import { useReview } from "../../../api/review";
import { TableHead } from "../../../design/TableHead";

interface Props {
  onClose: () => void;
}

const SOURCES: Record<string, string> = {
  label: "",
  tool: "read by a tool",
  belief: "believed",
  unknown: "source unknown",
  set: "",
};

/** What parts and settings promise for each configuration, against the highest that its passes showed. */
export function SpecifiedDialog({ onClose }: Props) {
  const review = useReview();
  const query = useQuery(specifiedQuery(review.id));
  const columns = review.columns.filter((column) => query.data?.some((one) => one.column === column.id));
  return (
    <Dialog open onClose={onClose} title="Specified against measured" wide>
      {query.isPending && <Loading what="Reading what the passes showed" />}
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      {query.data?.length === 0 && (
        <p className="font-serif">
          No part of these configurations specifies a clock, a power, a temperature or a size. Give the parts
          their attributes on the shelf.
        </p>
      )}
      {columns.length > 0 && (
        <table className="w-full text-note">
          <TableHead
            columns={[
              "what",
              ...["specified", "highest", "usual"].map((label) => ({ label, right: true })),
              "gap",
              "highest in",
            ]}
          />
          {columns.map((column) => (
            <tbody key={column.id} className="border-t border-ink">
              <tr>
                <th scope="rowgroup" colSpan={6} className="pt-1 text-left">
                  <span className="flex items-center gap-1.5">
                    <Seal position={column.position} label={column.label} size={16} />
                    {column.label}
                  </span>
                </th>
              </tr>
              {query.data
                ?.filter((one) => one.column === column.id)
                .map((one) => (
                  <Row key={`${one.what} ${one.of}`} one={one} />
                ))}
            </tbody>
          ))}
        </table>
      )}
      <p className="mt-3 text-note text-quiet">
        Highest: the highest second of the kept passes. Usual: the median of the passes’ medians. Within 3 %
        (of a temperature 3 K) something is reached, or at its limit.
      </p>
    </Dialog>
  );
}

function Row({ one }: { one: SpecifiedShape }) {
  const review = useReview();
  const test = one.test === null ? undefined : testOf(review, one.test);
  const odd = one.verdict === "short" || one.verdict === "over";
  return (
    <tr className="border-t border-line align-top">
      <th scope="row" className="pr-3 text-left font-normal">
        {one.what} <span className="text-quiet">{one.of}</span>
      </th>
      <td className="text-right whitespace-nowrap">
        {withUnit(one.specified, one.unit)}
        {SOURCES[one.source] && <span className="block text-quiet">{SOURCES[one.source]}</span>}
      </td>
      <td className="pl-3 text-right font-semibold whitespace-nowrap">{measured(one.highest, one.unit)}</td>
      <td className="pl-3 text-right whitespace-nowrap">{measured(one.usual, one.unit)}</td>
      <td className={`pl-4 whitespace-nowrap ${odd ? "text-mark" : ""}`}>{one.words}</td>
      <td className="pl-4 text-quiet">
        {test ? `${test.name}, ${test.detail}` : ""}
        {one.passes > 0 && ` (of ${count(one.passes, "pass")})`}
      </td>
    </tr>
  );
}

function measured(value: number | null, unit: string): string {
  return value === null ? "" : withUnit(value, unit);
}
