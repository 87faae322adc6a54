"""Two cells against each other with noise that is known already; what sections 4 to 7 and 14 are made of."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.compare import Verdict, verdict_of
from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise, pooled
from nomothet.core.passes import antilog, mean_of, on_scale, t_quantile

Turn = Literal["higher", "lower"]


@dataclass(frozen=True)
class Pairwise:
    """One cell against another as a ratio; above 1 is better, whatever the direction. None where noise is unknown."""

    ratio: float
    low: float | None
    high: float | None
    verdict: Verdict


def turned_cells(cells: Mapping[str, Iterable[float]], direction: Turn) -> dict[str, list[float]]:
    """The logs of every cell, turned so that more is better.

    Raises
    ------
    BadSample
        Names the cell that is empty, or whose value cannot be compared.
    """
    sign = -1.0 if direction == "lower" else 1.0
    found = {}
    for name, values in cells.items():
        try:
            y = on_scale(values, "ratio")
        except BadSample as error:
            raise BadSample(f"{name}: {error}") from None
        if not y:
            raise BadSample(f"{name}: there is no pass")
        found[name] = [sign * value for value in y]
    return found


def difference(y: Sequence[float], base: Sequence[float], noise: Noise) -> tuple[float, float]:
    """The difference of two cells of turned logs, and its standard error (NaN where the noise is unknown)."""
    return mean_of(y) - mean_of(base), noise.sd * math.sqrt(1 / len(y) + 1 / len(base))


def judged(d: float, se: float, df: float, level: float, margin: float) -> Pairwise:
    """A difference of turned logs as a ratio with its interval and verdict (section 3).

    Parameters
    ----------
    se, df : float
        Standard error and its degrees of freedom; without any, nothing but the ratio is told.
    level : float
        Error probability of both sides together.
    margin : float
        The practical margin as a fraction.

    Examples
    --------
    >>> judged(math.log(1.1), 0.01, 4, 0.05, 0.03).verdict, judged(0.0, math.nan, 0, 0.05, 0.03).verdict
    ('ahead', 'noise unknown')
    """
    if not df or math.isnan(se):
        return Pairwise(antilog(d), None, None, "noise unknown")
    half = t_quantile(level, df) * se
    verdict = verdict_of(d - half, d + half, math.log1p(margin))
    return Pairwise(antilog(d), antilog(d - half), antilog(d + half), verdict)


def against(y: Sequence[float], base: Sequence[float], noise: Noise, level: float, margin: float) -> Pairwise:
    """One cell of turned logs against another with the noise of their test."""
    return judged(*difference(y, base, noise), noise.df, level, margin)


def noise_of(cells: Mapping[str, Sequence[float]]) -> Noise:
    """The noise pooled over cells of turned logs."""
    return pooled(cells.values())
