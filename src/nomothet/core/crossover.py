"""Section 10 of the method: two configurations over the size of a problem."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise
from nomothet.core.pairwise import Turn, difference, noise_of, turned_cells
from nomothet.core.passes import ALPHA, antilog, t_quantile


@dataclass(frozen=True)
class Crossing:
    """Where who is ahead changes; `low` and `high` are None without noise, and may lie beyond the sizes."""

    size: float
    ahead_above: Literal["a", "b"]
    low: float | None
    high: float | None


@dataclass(frozen=True)
class CrossoverResult:
    """By rising size, the turned log ratio of b to a: above 0 b is ahead."""

    sizes: list[float]
    log_ratio: list[float]
    crossings: list[Crossing]


def crossover(
    sizes: Mapping[float, tuple[Sequence[float], Sequence[float]]], direction: Turn = "higher"
) -> CrossoverResult:
    """Where b overtakes a, or a b, between neighbouring sizes.

    Parameters
    ----------
    sizes : mapping of size to the values of a and of b

    Raises
    ------
    BadSample
        With fewer than two sizes, a size that is not above 0, or a cell without a pass.

    Examples
    --------
    >>> found = crossover({64: ([100], [90]), 256: ([90], [100])})
    >>> [(round(one.size, 9), one.ahead_above) for one in found.crossings]
    [(128.0, 'b')]
    """
    if len(sizes) < 2:
        raise BadSample("a crossing lies between two sizes or more")
    wrong = [size for size in sizes if not 0 < size < math.inf]
    if wrong:
        raise BadSample(f"the size is {wrong[0]:g}; it must be above 0")
    ordered = sorted(sizes)
    cells = turned_cells(
        {f"{who} at {size:g}": sizes[size][at] for size in ordered for at, who in enumerate("ab")}, direction
    )
    noise = noise_of(cells)
    points = [
        _Point(math.log(size), *difference(cells[f"b at {size:g}"], cells[f"a at {size:g}"], noise)) for size in ordered
    ]
    crossings = []
    last: _Point | None = None
    zeros: list[float] = []
    for point in points:
        if point.d == 0:
            zeros.append(point.log_size)
            continue
        if last is not None and (point.d > 0) != (last.d > 0):
            crossings.append(_crossing(last, point, zeros, noise))
        last, zeros = point, []
    return CrossoverResult(list(map(float, ordered)), [point.d for point in points], crossings)


@dataclass(frozen=True)
class _Point:
    log_size: float
    d: float
    se: float


def _crossing(before: _Point, after: _Point, zeros: Sequence[float], noise: Noise) -> Crossing:
    """By a straight line over log size; where both are exactly level between, in the middle of that."""
    apart = after.log_size - before.log_size
    share = before.d / (before.d - after.d)
    at = (zeros[0] + zeros[-1]) / 2 if zeros else before.log_size + apart * share
    ahead: Literal["a", "b"] = "b" if after.d > 0 else "a"
    if not noise.df:
        return Crossing(antilog(at), ahead, None, None)
    se = apart * math.hypot(after.d * before.se, before.d * after.se) / (before.d - after.d) ** 2
    half = t_quantile(ALPHA, noise.df) * se
    return Crossing(antilog(at), ahead, antilog(at - half), antilog(at + half))
