import type { Stretch } from "../../api/queries";
import { Button } from "../../design/Button";
import { useKeys } from "../../shell/keys";

interface Props {
  range: Stretch;
  end: number;
  onStretch: (stretch: Stretch | null) => void;
}

/** A stretch kept within the run; the whole run is no stretch. */
export function within(from: number, to: number, end: number): Stretch | null {
  const width = Math.min(to - from, end);
  const low = Math.min(Math.max(0, from), end - width);
  return low <= 0 && width >= end ? null : { from: low, to: low + width };
}

/** Zooming by buttons and by keys: + and −, [ and ] to move, 0 for the whole run. */
export function ZoomKeys({ range, end, onStretch }: Props) {
  const width = range.to - range.from;
  const middle = (range.from + range.to) / 2;
  const zoom = (factor: number) =>
    onStretch(within(middle - (width * factor) / 2, middle + (width * factor) / 2, end));
  const move = (share: number) =>
    onStretch(within(range.from + share * width, range.to + share * width, end));
  useKeys({
    "+": () => zoom(0.5),
    "-": () => zoom(2),
    "[": () => move(-0.5),
    "]": () => move(0.5),
    "0": () => onStretch(null),
  });
  return (
    <span className="flex gap-1" role="group" aria-label="Zoom">
      <Button kind="bare" aria-label="Zoom in" onClick={() => zoom(0.5)}>
        +
      </Button>
      <Button kind="bare" aria-label="Zoom out" onClick={() => zoom(2)}>
        −
      </Button>
      <Button kind="bare" aria-label="Earlier" onClick={() => move(-0.5)}>
        ‹
      </Button>
      <Button kind="bare" aria-label="Later" onClick={() => move(0.5)}>
        ›
      </Button>
      <Button kind="bare" onClick={() => onStretch(null)}>
        whole run
      </Button>
    </span>
  );
}
