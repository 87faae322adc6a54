import type { Shapes } from "../api/client";
import { dayWords } from "../places/standings/day";
import { ReferenceMark } from "./ReferenceMark";

type Reference = Shapes["ReferenceShape"];

/** A reference over its cells: where it is from and of which day. */
export function ReferenceHead({ reference, className }: { reference: Reference; className: string }) {
  const { number, label, source, day } = reference;
  return (
    <th scope="col" className={className}>
      <span className="flex max-w-full items-center gap-2 text-body font-semibold">
        <ReferenceMark number={number} label={label} />
        <span className="truncate">{label}</span>
      </span>
      <div className="truncate text-small font-normal text-quiet" title={source}>
        {reference.kind === "foreign" ? "from outside" : "from another review"}, {dayWords(day)}
      </div>
    </th>
  );
}
