"""Section 13 of the method: what recording itself costs, by pairs of passes without and with the recorder."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.compare import Direction
from nomothet.core.errors import BadSample
from nomothet.core.notes import Note, note
from nomothet.core.passes import ALPHA, antilog, mean_of, on_scale, squares_about_mean, t_quantile

FEWEST_PAIRS = 3


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
    refused: Note | None


def recorder_overhead(
    tests: Mapping[str, tuple[Sequence[float], Sequence[float]]], directions: Mapping[str, Direction] | None = None
) -> Overhead:
    """The factor by which recording changes a ratio-scale metric.

    One correction for all tests is given only where every test has three pairs or more, all are better in one
    direction, and no two intervals lie apart.

    Parameters
    ----------
    tests : mapping of str to (off, on)
        Values of paired passes, in order: pass i without the recorder, pass i with it.
    directions : mapping of str to direction, optional
        "higher" where a test is not named.

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
    k = antilog(mean_of([math.log(factor.k) for factor in factors.values()]))
    refused = _refusal(factors, directions or {})
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
        return Factor(antilog(mean), None, None, 1)
    half = t_quantile(ALPHA, len(d) - 1) * math.sqrt(squares_about_mean(d) / (len(d) - 1) / len(d))
    return Factor(antilog(mean), antilog(mean - half), antilog(mean + half), len(d))


def _refusal(factors: Mapping[str, Factor], directions: Mapping[str, Direction]) -> Note | None:
    """Why there is no one correction for all tests."""
    few = [name for name, one in factors.items() if one.pairs < FEWEST_PAIRS]
    if few:
        return note("too_few_pairs", tests=few, fewest=FEWEST_PAIRS)
    ways = {name: directions.get(name, "higher") for name in factors}
    if len(set(ways.values())) > 1:
        return note("directions_differ", tests=list(factors))
    bounded = [
        (name, one.low, one.high) for name, one in factors.items() if one.low is not None and one.high is not None
    ]
    for at, (a, low_a, high_a) in enumerate(bounded):
        for b, low_b, high_b in bounded[at + 1 :]:
            if high_a < low_b or high_b < low_a:
                return note("factors_disagree", tests=[a, b])
    return None
