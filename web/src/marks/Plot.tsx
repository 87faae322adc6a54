import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { fontReady } from "./plot";

interface Props {
  options: Omit<uPlot.Options, "width">;
  data: uPlot.AlignedData;
  label: string;
}

/** A plot as wide as its place; made anew when its options change, fed when only the data does. */
export function Plot({ options, data, label }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef(data);
  useEffect(() => {
    latest.current = data;
    plot.current?.setData(data, false);
    plot.current?.redraw();
  }, [data]);
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    let gone = false;
    void fontReady.then(() => {
      if (gone) return;
      plot.current = new uPlot({ ...options, width: element.clientWidth }, latest.current, element);
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
