"""Section 13 of the method: what recording itself costs, by pairs of passes without and with the recorder."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSample
from nomothet.core.passes import ALPHA, mean_of, on_scale, squares_about_mean, t_quantile


@dataclass(frozen=True)
class Factor:
    """`k = y_on / y_off` of one test, with its 95 % interval; None from a single pair."""

    k: float
    low: float | None
    high: float | None
    pairs: int

    @property
    def change_pct(self) -> float:
        """The change by recording in %, negative for a loss of a higher-is-better metric."""
        return 100 * (self.k - 1)


@dataclass(frozen=True)
class Overhead:
    """The factor of each test, and the correction over all of them; `refused` says why there is none."""

    tests: dict[str, Factor]
    k: float | None
    refused: str


def recorder_overhead(tests: Mapping[str, tuple[Sequence[float], Sequence[float]]]) -> Overhead:
    """The factor by which recording changes a ratio-scale metric.

    Parameters
    ----------
    tests : mapping of str to (off, on)
        Values of paired passes, in order: pass i without the recorder, pass i with it.

    Raises
    ------
    BadSample
        When there is no pair, or the numbers of passes differ.

    Examples
    --------
    >>> found = recorder_overhead({"walk": ([940.0], [868.0])})
    >>> round(found.tests["walk"].k, 4), round(found.tests["walk"].change_pct, 2)
    (0.9234, -7.66)
    """
    if not tests:
        raise BadSample("no test has a pair of passes without and with the recorder")
    factors = {name: _factor(name, off, on) for name, (off, on) in tests.items()}
    k = math.exp(mean_of([math.log(factor.k) for factor in factors.values()]))
    refused = _disagreement(factors)
    return Overhead(factors, None if refused else k, refused)


def without_recorder(value: float, k: float) -> float:
    """What a value measured with the recorder would have been without it.

    >>> round(without_recorder(868.0, 0.9234), 0)
    940.0
    """
    return value / k


def _factor(name: str, off: Sequence[float], on: Sequence[float]) -> Factor:
    if len(off) != len(on) or not off:
        raise BadSample(f"{name}: {len(off)} passes without the recorder and {len(on)} with it make no pairs")
    d = [b - a for a, b in zip(on_scale(off, "ratio"), on_scale(on, "ratio"), strict=True)]
    mean = mean_of(d)
    if len(d) == 1:
        return Factor(math.exp(mean), None, None, 1)
    half = t_quantile(ALPHA, len(d) - 1) * math.sqrt(squares_about_mean(d) / (len(d) - 1) / len(d))
    return Factor(math.exp(mean), math.exp(mean - half), math.exp(mean + half), len(d))


def _disagreement(factors: Mapping[str, Factor]) -> str:
    """Two tests whose intervals do not meet, in words."""
    bounded = [
        (name, one.low, one.high) for name, one in factors.items() if one.low is not None and one.high is not None
    ]
    for at, (a, low_a, high_a) in enumerate(bounded):
        for b, low_b, high_b in bounded[at + 1 :]:
            if high_a < low_b or high_b < low_a:
                return f"{a} and {b} disagree by more than their intervals: one correction does not fit both"
    return ""
