import { useState } from "react";
import { columnOf } from "../../api/lookup";
import { useReview } from "../../api/review";
import type { Shapes } from "../../api/client";
import { Seal } from "../../marks/Seal";

type Side = Shapes["PictureSide"];

interface Props {
  pair: { a: Side; b: Side };
  /** Where a picture is found, by its id. */
  address: (id: number) => string;
}

/** Two pictures beside each other, or one over the other with a border that is moved. */
export function Beside({ pair, address }: Props) {
  const [over, setOver] = useState(false);
  const [share, setShare] = useState(50);
  const { a, b } = pair;
  return (
    <div>
      {over ? (
        <figure>
          <div className="relative inline-block max-w-full overflow-hidden">
            <img src={address(a.id)} alt={altOf(a)} className="block max-h-[55vh] max-w-full" />
            <img
              src={address(b.id)}
              alt={altOf(b)}
              className="absolute inset-0 h-full w-full"
              style={{ clipPath: `inset(0 0 0 ${share}%)` }}
            />
            <span
              aria-hidden="true"
              className="absolute inset-y-0 w-px bg-mark"
              style={{ left: `${share}%` }}
            />
          </div>
          <label className="mt-1 flex items-center gap-2 text-small text-quiet">
            <Caption side={a} />
            <input
              type="range"
              min={0}
              max={100}
              value={share}
              aria-label="How much of the first is seen, in %"
              onChange={(event) => setShare(Number(event.target.value))}
              className="flex-1"
            />
            <Caption side={b} />
          </label>
        </figure>
      ) : (
        <div className="grid gap-2 sm:grid-cols-2">
          {[a, b].map((side) => (
            <figure key={side.id}>
              <img src={address(side.id)} alt={altOf(side)} className="block w-full" />
              <figcaption className="text-small text-quiet">
                <Caption side={side} />
              </figcaption>
            </figure>
          ))}
        </div>
      )}
      <label className="mt-1 flex items-center gap-1.5 text-small text-quiet print:hidden">
        <input type="checkbox" checked={over} onChange={() => setOver(!over)} />
        one over the other
      </label>
    </div>
  );
}

function altOf(side: Side): string {
  return side.caption || `picture of pass ${side.number}`;
}

function Caption({ side }: { side: Side }) {
  const column = columnOf(useReview(), side.column);
  return (
    <span>
      {column && <Seal position={column.position} label={column.label} size={15} />} {column?.label}, pass{" "}
      {side.number}
      {side.caption && `: ${side.caption}`}
    </span>
  );
}
