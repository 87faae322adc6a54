import type uPlot from "uplot";
import type { Stretch } from "../../api/queries";
import { sealInk } from "../Seal";
import { within } from "./ZoomKeys";

const SYNC = "trace";
const WHEEL_STEP = 1.25;

export function cssInk(position: number): string {
  return getComputedStyle(document.documentElement).getPropertyValue(sealInk(position).slice(4, -1)).trim();
}

/** What every plot of a trace shares: the linked cursor, zoom by dragging and by the wheel. */
export function hooks(
  end: number,
  onStretch: (stretch: Stretch | null) => void,
  onCursor: (at: number | null) => void,
): Partial<uPlot.Options> {
  return {
    cursor: {
      sync: { key: SYNC },
      drag: { x: true, y: false, setScale: false },
      points: { size: 6 },
      bind: {
        dblclick: () => () => {
          onStretch(null);
          return null;
        },
      },
    },
    hooks: {
      ready: [
        (plot) => {
          plot.over.addEventListener(
            "wheel",
            (event: WheelEvent) => {
              event.preventDefault();
              const at = plot.posToVal(event.offsetX, "x");
              const factor = event.deltaY > 0 ? WHEEL_STEP : 1 / WHEEL_STEP;
              const { min = 0, max = end } = plot.scales["x"] ?? {};
              onStretch(within(at - (at - min) * factor, at + (max - at) * factor, end));
            },
            { passive: false },
          );
        },
      ],
      setCursor: [
        (plot) => {
          // Only the plot under the pointer tells; the others follow it.
          if (!plot.over.matches(":hover")) return;
          const left = plot.cursor.left ?? -1;
          onCursor(left < 0 ? null : plot.posToVal(left, "x"));
        },
      ],
      setSelect: [
        (plot) => {
          if (plot.select.width < 4) return;
          onStretch({
            from: plot.posToVal(plot.select.left, "x"),
            to: plot.posToVal(plot.select.left + plot.select.width, "x"),
          });
          plot.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false);
        },
      ],
    },
  };
}
