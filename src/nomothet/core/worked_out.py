"""Section 19 of the method: a figure that is worked out of two others of the same cell."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.passes import Scale, centre

By = Literal["ratio", "product", "difference"]
BY: tuple[By, ...] = ("ratio", "product", "difference")


@dataclass(frozen=True)
class WorkedOut:
    """Values by pass, and the extra standard deviation that each brings where b is of other passes than a."""

    passes: list[int]
    values: list[float]
    spreads: list[float]
    paired: bool


def worked_out(a: Mapping[int, float], b: Mapping[int, float], by: By, scale_b: Scale = "ratio") -> WorkedOut:
    """Work a figure out of two, by the numbers of their passes.

    Where both are of the same passes, each pass has its own value. Where no pass has both, every value of `a` is taken
    with the centre of `b`, whose standard error then is one that all of them share.

    Examples
    --------
    >>> worked_out({1: 60.0, 2: 62.0}, {1: 30.0, 2: 31.0}, "ratio").values
    [2.0, 2.0]
    >>> apart = worked_out({1: 60.0}, {2: 29.0, 3: 31.0}, "difference")
    >>> apart.paired, round(apart.values[0], 2)
    (False, 30.02)
    """
    both = sorted(set(a) & set(b))
    if both:
        values = [(number, _value(a[number], b[number], by)) for number in both]
        own = [(number, value) for number, value in values if value is not None]
        return WorkedOut([n for n, _ in own], [v for _, v in own], [0.0] * len(own), True)
    known = [value for value in b.values() if scale_b == "difference" or value > 0]
    if not a or not known:
        return WorkedOut([], [], [], False)
    middle = centre(known, scale_b)
    error = _standard_error(known)
    found = [(number, value, _value(value, middle, by)) for number, value in sorted(a.items())]
    whole = [(number, value, made) for number, value, made in found if made is not None]
    # Shared by all: as large for the mean of n values as for one, so it is handed on n-fold under the root.
    wide = math.sqrt(len(whole))
    return WorkedOut(
        [number for number, _, _ in whole],
        [made for _, _, made in whole],
        [wide * _slope(value, middle, by) * error for _, value, _ in whole],
        False,
    )


def less_idle(values: Sequence[float], idle: Sequence[float]) -> tuple[list[float], float]:
    """Readings less the mean of the idle baseline of their configuration (section 14), and the extra standard deviation
    that each brings, since all of them share that mean.

    >>> less_idle([30.0, 31.0], [10.0, 12.0])[0]
    [19.0, 20.0]
    """
    middle = math.fsum(idle) / len(idle)
    return [one - middle for one in values], math.sqrt(len(values)) * _standard_error(idle)


def _value(a: float, b: float, by: By) -> float | None:
    if by == "ratio":
        return a / b if b else None
    return a * b if by == "product" else a - b


def _slope(a: float, b: float, by: By) -> float:
    """How much the value changes with b."""
    if by == "ratio":
        return abs(a) / (b * b)
    return abs(a) if by == "product" else 1.0


def _standard_error(values: Sequence[float]) -> float:
    n = len(values)
    if n < 2:
        return 0.0
    mean = math.fsum(values) / n
    return math.sqrt(math.fsum((value - mean) ** 2 for value in values) / (n - 1) / n)
