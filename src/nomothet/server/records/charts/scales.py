"""From values to places in a chart, with the round values that an axis names."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

# An interval reaches beyond the values by so many times their span at most; then it is cut.
_MOST_BEYOND = 1.5
_STEPS = (1, 2, 2.5, 5, 10)


@dataclass(frozen=True)
class Scale:
    """An even axis, or one of equal ratios, from `low` to `high` over the places `start` to `end`."""

    low: float
    high: float
    start: float
    end: float
    log: bool = False

    def __call__(self, value: float) -> float:
        low, high, at = (self.low, self.high, value)
        if self.log:
            low, high, at = (math.log(max(one, 1e-300)) for one in (low, high, at))
        share = (at - low) / (high - low) if high > low else 0.5
        return self.start + share * (self.end - self.start)

    def within(self, value: float) -> float:
        """The place of a value, kept on the axis."""
        return self(min(self.high, max(self.low, value)))

    def ticks(self, most: int = 6) -> list[float]:
        """Round values on the axis, about as many as asked for."""
        if self.log:
            return _round_ratios(self.low, self.high)
        span = self.high - self.low
        if not span > 0:
            return [self.low]
        rough = span / most
        power = 10.0 ** math.floor(math.log10(rough))
        step = next(power * one for one in _STEPS if power * one >= rough * 0.999)
        first = math.ceil(self.low / step - 1e-9)
        return [round(at * step, 12) for at in range(first, math.floor(self.high / step + 1e-9) + 1)]


def _round_ratios(low: float, high: float) -> list[float]:
    first, last = math.floor(math.log10(low)), math.ceil(math.log10(high))
    steps: tuple[float, ...] = (1, 2, 5) if high / low > 6 else (1, 1.5, 2, 3, 4, 5, 6, 7, 8, 9)
    return [one * 10.0**at for at in range(first, last + 1) for one in steps if low <= one * 10.0**at <= high]


def span_of(values: Sequence[float], ends: Sequence[float], *, log: bool = False) -> tuple[float, float]:
    """What an axis spans: all values, and the ends of intervals as far as these leave the values readable."""
    kept = [one for one in ends if not log or one > 0]

    def turn(one: float) -> float:
        return math.log(max(one, 1e-300)) if log else one

    def back(one: float) -> float:
        return math.exp(one) if log else one

    low, high = turn(min(values)), turn(max(values))
    room = _MOST_BEYOND * (high - low) if high > low else math.inf
    first, last = turn(min([*values, *kept])), turn(max([*values, *kept]))
    return back(max(first, low - room)), back(min(last, high + room))
