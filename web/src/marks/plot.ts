import type uPlot from "uplot";

/** Settings that all our traces share. */

export const GUTTER_LEFT = 92;
export const GUTTER_RIGHT = 8;

export function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
}

export const FONT = '11.5px "Source Sans 3 Variable", sans-serif';

/** uPlot measures text on a canvas, so the face must be there before it draws. */
export const fontReady: Promise<unknown> = document.fonts.load(FONT).catch(() => undefined);

export function timeAxis(shown: boolean): uPlot.Axis {
  return {
    show: shown,
    font: FONT,
    stroke: token("quiet"),
    size: shown ? 22 : 0,
    gap: 2,
    grid: { show: false },
    ticks: { show: false },
    values: (_plot, splits) => splits.map((at) => `${Number(at.toFixed(3))} s`),
  };
}

/** Several series on one time axis: the union of their times, with gaps where a series has no point. */
export function joined(series: { t: number[]; v: (number | null)[] }[]): uPlot.AlignedData {
  const only = series[0];
  if (series.length === 1 && only) return [only.t, only.v] as uPlot.AlignedData;
  const times = [...new Set(series.flatMap((one) => one.t))].sort((a, b) => a - b);
  const at = new Map(times.map((time, index) => [time, index]));
  const columns = series.map((one) => {
    const column: (number | null | undefined)[] = new Array(times.length).fill(undefined);
    one.t.forEach((time, index) => {
      column[at.get(time) ?? 0] = one.v[index];
    });
    return column;
  });
  return [times, ...columns] as uPlot.AlignedData;
}
