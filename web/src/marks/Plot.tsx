import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { fontReady } from "./plot";

interface Props {
  options: Omit<uPlot.Options, "width">;
  data: uPlot.AlignedData;
  /** What of the time axis is in sight. */
  from: number;
  to: number;
  label: string;
}

/** A plot as wide as its place; made anew when its options change, fed or moved along when only data or range do. */
export function Plot({ options, data, from, to, label }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef({ data, from, to });
  useEffect(() => {
    const fed = latest.current.data !== data;
    latest.current = { data, from, to };
    if (fed) plot.current?.setData(data, false);
    plot.current?.setScale("x", { min: from, max: to });
  }, [data, from, to]);
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    let gone = false;
    void fontReady.then(() => {
      if (gone) return;
      const { data: first, from: min, to: max } = latest.current;
      plot.current = new uPlot({ ...options, width: element.clientWidth }, first, element);
      plot.current.setScale("x", { min, max });
    });
    const observer = new ResizeObserver(() => {
      plot.current?.setSize({ width: element.clientWidth, height: options.height });
    });
    observer.observe(element);
    return () => {
      gone = true;
      observer.disconnect();
      plot.current?.destroy();
      plot.current = null;
    };
  }, [options]);
  return <div ref={place} role="img" aria-label={label} className="w-full" />;
}
