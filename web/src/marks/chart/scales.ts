import { scaleLinear, scaleLog } from "d3-scale";

/** From values of a quantity to positions in a chart, with the round values that an axis names. */
export interface Scale {
  (value: number): number;
  ticks: number[];
  /** The ends of the axis, as values. */
  ends: [number, number];
}

function scaled(
  scale: ReturnType<typeof scaleLinear<number>> | ReturnType<typeof scaleLog<number>>,
  most: number,
): Scale {
  const [low = 0, high = 1] = scale.domain();
  return Object.assign((value: number) => scale(value), {
    ticks: scale.ticks(most),
    ends: [low, high] as [number, number],
  });
}

/** An even axis over some values; a single value stands in the middle of an axis of its own size. */
export function linear(values: readonly number[], range: [number, number], mostTicks = 5): Scale {
  const low = Math.min(...values);
  const high = Math.max(...values);
  const pad = low === high ? Math.abs(low) / 2 || 1 : 0;
  return scaled(
    scaleLinear()
      .domain([low - pad, high + pad])
      .range(range),
    mostTicks,
  );
}

/** An axis of equal ratios over values above 0. */
export function logarithmic(values: readonly number[], range: [number, number], mostTicks = 5): Scale {
  const positive = values.filter((value) => value > 0);
  const low = Math.min(...positive);
  const high = Math.max(...positive);
  return scaled(
    scaleLog()
      .domain(low === high ? [low / 2, high * 2] : [low, high])
      .range(range),
    mostTicks,
  );
}

const MOST_BEYOND = 1.5;

/** What an axis spans: all values, and the ends of intervals as far as these leave the values readable. */
export function spanOf(values: readonly number[], ends: readonly number[], log = false): [number, number] {
  const [turn, back] = log ? [Math.log, Math.exp] : [Number, Number];
  const [low, high] = [turn(Math.min(...values)), turn(Math.max(...values))];
  const room = high > low ? MOST_BEYOND * (high - low) : Infinity;
  const all = [...values, ...ends.filter((end) => !log || end > 0)];
  const [first, last] = [turn(Math.min(...all)), turn(Math.max(...all))];
  return [back(Math.max(first, low - room)), back(Math.min(last, high + room))];
}
