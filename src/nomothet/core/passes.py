"""Section 2 of the method: the passes of one cell, their centre, spread, interval and flags.

Ratio-scale values are worked on as logs, difference-scale values as they are.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import scipy
from numpy.typing import ArrayLike

from nomothet.core.errors import BadSample

Scale = Literal["ratio", "difference"]
LowDefinition = Literal["percentile", "slowest_mean", "time_share"]

ALPHA = 0.05
ODD_SCORE = 3.5
# A pass of pure noise is called odd in under one case of a hundred.
ODD_LEVEL = 0.01
ODD_BORROWED_SD = 3.0
_ENOUGH_FOR_FLAGS = 4
SETTLED_C_PER_MIN = 1.0
# The largest float is e^709.8; what is worked out of an end of an interval, as a square, stays inside it.
FARTHEST_LOG = 350.0


@dataclass(frozen=True)
class Summary:
    """Centre and spread of a cell's kept passes.

    `spread` is the standard deviation of the logs (ratio scale; times 100 it is the coefficient of variation in %) or
    of the values (difference scale). It and the 95 % interval are None for a single pass: unknown, not zero.
    """

    n: int
    centre: float
    spread: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Drift:
    """A slope against pass order that differs from 0: % per pass (ratio) or units per pass (difference)."""

    per_pass: float
    p_value: float


@dataclass(frozen=True)
class Flags:
    """What is conspicuous about a cell's passes. Positions are 0-based, in the order of the passes."""

    odd: tuple[int, ...]
    drift: Drift | None
    cold_first: bool


def on_scale(values: Iterable[float], scale: Scale) -> list[float]:
    """Values as they are computed on: logs on the ratio scale.

    Cells hold a handful of passes, for which plain floats are several times faster than arrays.

    Raises
    ------
    BadSample
        When a value is not finite, or not above 0 on the ratio scale.
    """
    y = [float(value) for value in values]
    for at, value in enumerate(y, start=1):
        if not math.isfinite(value) or (scale == "ratio" and value <= 0):
            need = "a finite number above 0" if scale == "ratio" else "a finite number"
            raise BadSample(f"value {at} is {value:g}; it must be {need}")
    return [math.log(value) for value in y] if scale == "ratio" else y


def antilog(y: float) -> float:
    """A value on the ratio scale back from its log; beyond e^350 either way, that bound.

    Passes that are powers of ten apart, as a slip of a key makes them, leave an interval that no float holds.

    >>> round(antilog(math.log(94.1)), 9), antilog(9000.0) == math.exp(350)
    (94.1, True)
    """
    return math.exp(max(-FARTHEST_LOG, min(FARTHEST_LOG, y)))


def mean_of(y: Sequence[float]) -> float:
    """Arithmetic mean."""
    return math.fsum(y) / len(y)


def squares_about_mean(y: Sequence[float]) -> float:
    """Sum of squared deviations from the mean; exactly 0 where all are equal."""
    if min(y) == max(y):
        return 0.0
    mean = mean_of(y)
    return math.fsum((value - mean) ** 2 for value in y)


def median_of(y: Sequence[float]) -> float:
    """Median; the mean of the middle two of an even number."""
    ordered = sorted(y)
    n = len(ordered)
    return (ordered[(n - 1) // 2] + ordered[n // 2]) / 2


@lru_cache(maxsize=4096)
def t_quantile(level: float, df: float) -> float:
    """Two-sided Student t factor: `level` is the error probability of both sides together."""
    return float(scipy.special.stdtrit(df, 1 - level / 2))


def centre(values: Iterable[float], scale: Scale = "ratio") -> float:
    """Geometric mean on the ratio scale, arithmetic mean on the difference scale.

    >>> round(centre([90.0, 110.0]), 3), centre([90.0, 110.0], "difference")
    (99.499, 100.0)
    """
    y = on_scale(values, scale)
    if not y:
        raise BadSample("a cell without a kept pass has no centre")
    return antilog(mean_of(y)) if scale == "ratio" else mean_of(y)


def summary(values: Iterable[float], scale: Scale = "ratio", reading_error: float = 0.0) -> Summary:
    """Centre, spread and 95 % Student interval of one cell.

    Parameters
    ----------
    values : iterable of float
        The values of the kept passes, at least one.
    reading_error : float, optional
        Standard error that inexact readings bring to the centre, on the computing scale (section 18).

    Examples
    --------
    >>> round(summary([90.0, 110.0]).centre, 3)   # the geometric mean
    99.499
    >>> summary([90.0, 110.0], "difference").centre
    100.0
    """
    y = on_scale(values, scale)
    if not y:
        raise BadSample("a cell without a kept pass has no centre")
    back = antilog if scale == "ratio" else float
    mean = mean_of(y)
    if len(y) == 1:
        return Summary(1, back(mean), None, None, None)
    spread = math.sqrt(squares_about_mean(y) / (len(y) - 1))
    half = t_quantile(ALPHA, len(y) - 1) * math.hypot(spread / math.sqrt(len(y)), reading_error)
    return Summary(len(y), back(mean), spread, back(mean - half), back(mean + half))


def flags(
    values: Iterable[float],
    scale: Scale = "ratio",
    borrowed_sd: float | None = None,
    others: Iterable[Sequence[float]] | None = None,
) -> Flags:
    """Odd passes, drift and a cold first pass.

    Parameters
    ----------
    values : iterable of float
        The values of the kept passes in the order in which they ran.
    borrowed_sd : float, optional
        Noise from earlier reviews (SD on the same scale), against which fewer than four passes are judged.
    others : iterable of sequences of float, optional
        The kept passes of the test's other cells. Where they are given, an odd pass must also be one by the noise of
        the whole test, which keeps false alarms under 1 % of the passes.

    References
    ----------
    Iglewicz, B., and Hoaglin, D. (1993), How to detect and handle outliers: modified z-score above 3.5. On few passes
    pure noise passes that score often (at five passes, one in nineteen). Cook, R. D., and Weisberg, S. (1982): the
    externally studentised residual, at 1 %, with the noise pooled over the test.

    Examples
    --------
    >>> flags([94.1, 93.9, 94.0, 94.2, 89.0]).odd
    (4,)
    """
    y = on_scale(values, scale)
    if len(y) < _ENOUGH_FOR_FLAGS:
        return Flags(_odd_against(y, borrowed_sd), None, False)
    odd = _odd(y)
    if others is not None and odd:
        odd = _odd_in_test(y, odd, [on_scale(other, scale) for other in others])
    return Flags(odd, _drift(y, scale), odd == (0,))


def _odd(y: Sequence[float]) -> tuple[int, ...]:
    middle = median_of(y)
    away = [abs(value - middle) for value in y]
    mad = median_of(away)
    # Where over half the passes agree exactly, any that differs is infinitely many deviations away.
    limit = ODD_SCORE * mad / 0.6745
    return tuple(at for at, distance in enumerate(away) if distance > limit)


def _odd_in_test(y: Sequence[float], odd: tuple[int, ...], others: Sequence[Sequence[float]]) -> tuple[int, ...]:
    several = [other for other in others if len(other) > 1]
    squares = math.fsum(squares_about_mean(other) for other in several)
    df = sum(len(other) - 1 for other in several) + len(y) - 2
    return tuple(at for at in odd if _differs(y, at, squares, df))


def _differs(y: Sequence[float], at: int, squares: float, df: int) -> bool:
    """Whether a pass is too far from the mean of the rest to be one of them."""
    rest = [value for place, value in enumerate(y) if place != at]
    noise = math.sqrt((squares + squares_about_mean(rest)) / df)
    return abs(y[at] - mean_of(rest)) > t_quantile(ODD_LEVEL, df) * noise * math.sqrt(1 + 1 / len(rest)) + 1e-12


def _odd_against(y: Sequence[float], borrowed_sd: float | None) -> tuple[int, ...]:
    if not borrowed_sd or len(y) < 2:
        return ()
    middle = median_of(y)
    return tuple(at for at, value in enumerate(y) if abs(value - middle) > ODD_BORROWED_SD * borrowed_sd)


def _drift(y: Sequence[float], scale: Scale) -> Drift | None:
    n = len(y)
    order = [at - (n - 1) / 2 for at in range(n)]
    mean = mean_of(y)
    spread = math.fsum(x * x for x in order)
    slope = math.fsum(x * (value - mean) for x, value in zip(order, y, strict=True)) / spread
    df = n - 2
    residual = math.fsum((value - mean - slope * x) ** 2 for x, value in zip(order, y, strict=True))
    error = math.sqrt(residual / df / spread)
    # A line through equal values, or through values that rounding alone keeps apart, is no drift.
    if abs(slope) <= max(error * t_quantile(ALPHA, df), 1e-12):
        return None
    p_value = 0.0 if error == 0 else 2 * float(scipy.special.stdtr(df, -abs(slope) / error))
    return Drift(100 * math.expm1(min(slope, FARTHEST_LOG)) if scale == "ratio" else slope, p_value)


def rise_at_end(t_s: ArrayLike, temperature_c: ArrayLike) -> float | None:
    """How fast the temperature still rises in the last 20 % of a run, in °C per minute.

    Over `SETTLED_C_PER_MIN`, a stress or timing run was *too short*: it ended before the temperature had settled.

    Parameters
    ----------
    t_s, temperature_c : (n,) array_like
        When the temperature was read, and its values; NaN where a reading failed.

    Returns
    -------
    float or None
        None with under five readings in that part.

    Examples
    --------
    >>> round(rise_at_end(np.arange(600), 40 + np.arange(600) / 30), 3)
    2.0
    """
    t, values = np.asarray(t_s, dtype=np.float64), np.asarray(temperature_c, dtype=np.float64)
    late = np.isfinite(values) & (t >= t[-1] - 0.2 * (t[-1] - t[0])) if len(t) else np.zeros(0, bool)
    if np.count_nonzero(late) < 5:
        return None
    return 60 * float(np.polyfit(t[late] - t[late][0], values[late], 1)[0])
