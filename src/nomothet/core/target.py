"""Section 19 of the method: whether a target is met."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.passes import Scale, summary

TargetWord = Literal["met", "average only", "missed"]

# A cap so near to the target is set to hold it; a run that it holds has met the target from this share on.
_NEAR_CAP = 0.01
_HELD_SHARE = 0.995
_FEW = 1e-12


@dataclass(frozen=True)
class Judged:
    """A figure against a target: its centre, the end of its interval that is judged, and whether that reached it."""

    centre: float
    end: float
    reached: bool


@dataclass(frozen=True)
class Target:
    """Whether a target is met.

    `low` is None where the low is thin, missing, or the test has none; `by_average_alone` in the last case. On one pass
    there is no interval, and the value itself is judged.
    """

    result: TargetWord
    average: Judged
    low: Judged | None
    passes: int
    by_average_alone: bool = False


def target_rate(
    target_fps: float,
    averages: Sequence[float],
    lows: Sequence[float] | None,
    *,
    thin: bool = False,
    held_at: float | None = None,
) -> Target:
    """Whether a frame rate is kept up, by the averages and the lows of a cell's kept passes.

    Parameters
    ----------
    averages : (n,) sequence
        In frames per second, at least one.
    lows : sequence or None
        The 1 % lows; empty where they were not recorded, None where the test has none: then the average alone counts.
    thin : bool
        Whether the lows are over too few frames to be met.
    held_at : float, optional
        The held rate of the cell, in frames per second; within 1 % of the target, 0.995 of it is enough.

    Examples
    --------
    >>> target_rate(60, [75, 76, 74], [59, 62, 64]).result
    'average only'
    >>> target_rate(60, [59.9, 59.9], [59.8], held_at=60).result, target_rate(60, [72], None).by_average_alone
    ('met', True)
    """
    held = held_at is not None and abs(held_at / target_fps - 1) <= _NEAR_CAP + _FEW
    asked = target_fps * _HELD_SHARE if held else target_fps
    average = _at_least(averages, asked)
    low = _at_least(lows, asked) if lows and not thin else None
    if average.reached and (lows is None or (low is not None and low.reached)):
        result: TargetWord = "met"
    else:
        result = "average only" if average.centre >= asked * (1 - _FEW) and lows is not None else "missed"
    return Target(result, average, low, len(averages), lows is None)


def target_limit(limit: float, values: Sequence[float], scale: Scale, *, at_least: bool = False) -> Target:
    """Whether a quantity stays within a limit (a temperature, a time, watts), by the unfavourable end of its interval.

    Parameters
    ----------
    at_least : bool
        Whether it is to reach the limit from below, as a score is.

    >>> target_limit(85.0, [80.0, 81.0, 80.5], "difference").result, target_limit(85.0, [86.0], "difference").result
    ('met', 'missed')
    >>> target_limit(100.0, [104.0, 105.0, 106.0], "ratio", at_least=True).result
    'met'
    """
    found = summary(values, scale)
    own = found.low if at_least else found.high
    end = found.centre if own is None else own
    judged = Judged(found.centre, end, end >= limit if at_least else end <= limit)
    return Target("met" if judged.reached else "missed", judged, None, found.n, True)


def _at_least(values: Sequence[float], asked: float) -> Judged:
    found = summary(values)
    end = found.centre if found.low is None else found.low
    return Judged(found.centre, end, end >= asked * (1 - _FEW))
