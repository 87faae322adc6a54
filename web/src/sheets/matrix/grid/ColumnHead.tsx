import type { ReactNode } from "react";
import type { ColumnShape } from "../../../api/client";
import { Menu } from "../../../design/Menu";
import { Seal } from "../../../marks/Seal";
import { useReview } from "../../../api/review";
import { Beyond } from "../../Beyond";

interface Props {
  column: ColumnShape;
  baseline: number | null;
  className: string;
  /** What the lens says of the configuration. */
  children?: ReactNode;
  onBaseline: (column: ColumnShape) => void;
  onEveryonesBaseline?: (column: ColumnShape) => void;
}

/** A configuration over its cells: its seal, its name, and at most one line of what is to be known of it. */
export function ColumnHead({
  column,
  baseline,
  className,
  children,
  onBaseline,
  onEveryonesBaseline,
}: Props) {
  const isBaseline = column.id === baseline;
  const before = useReview().columns.find((one) => one.id === column.continues);
  const items = [
    { label: "Compare the others with this", act: () => onBaseline(column), disabled: isBaseline },
    ...(onEveryonesBaseline
      ? [
          {
            label: "Make it everybody's baseline",
            act: () => onEveryonesBaseline(column),
            disabled: column.is_baseline,
          },
        ]
      : []),
  ];
  return (
    <th scope="col" className={className}>
      <Menu
        items={items}
        trigger={
          <button
            type="button"
            title={column.note || undefined}
            className="flex max-w-full items-center gap-2 text-body font-semibold"
          >
            <Seal position={column.position} label={column.label} baseline={isBaseline} size={24} />
            <span className="truncate">
              {column.label}
              <span className="sr-only">: choose the baseline</span>
            </span>
          </button>
        }
      />
      {before && (
        <div className="truncate text-small font-normal text-quiet">
          goes on from <Seal position={before.position} label={before.label} size={14} /> after a change
        </div>
      )}
      <Beyond column={column} baseline={baseline} />
      {children}
    </th>
  );
}
