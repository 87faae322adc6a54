"""Return to the baseline: whether the baseline, measured again after others, is what it was (section 19)."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.core import compare
from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.formats.words import Metric
from nomothet.words import comparisons, say

_OPEN = ("undecided", "noise unknown")


@dataclass(frozen=True)
class ReturnShape:
    """The baseline again against its first passes, in one test; a shift that is not level is drift of the session."""

    test: int
    metric: str
    # When the first of the passes that came back ran.
    at: datetime
    change: float
    low: float | None
    high: float | None
    verdict: str
    drifted: bool
    n: int
    n_first: int
    words: str


@dataclass(frozen=True)
class Timed:
    """A value of a kept baseline pass, and when it ran."""

    at: datetime
    value: float


def blocks(own: Sequence[Timed], others: Sequence[datetime]) -> list[list[Timed]]:
    """The baseline's passes in unbroken stretches, in order; passes of other configurations lie between them.

    Parameters
    ----------
    others : sequence of datetime
        When passes of other configurations ran on the same system, rising.
    """
    found: dict[int, list[Timed]] = {}
    for one in sorted(own, key=lambda timed: timed.at):
        found.setdefault(bisect_left(others, one.at), []).append(one)
    return list(found.values())


def returned(
    test: int,
    metric: Metric,
    first: Sequence[Timed],
    again: Sequence[Timed],
    rest: Mapping[str, Sequence[float]],
    margin: float | None,
) -> ReturnShape | None:
    """The comparison of section 3, with the noise of the whole test.

    Parameters
    ----------
    rest : mapping of str to numbers
        The other cells of the test, which take part in the noise only.
    """
    try:
        found = compare.compare_with_baseline(
            {"first": [one.value for one in first], "again": [one.value for one in again]},
            "first",
            direction=metric.direction,
            scale=metric.scale,
            margin=margin,
            others=rest.values(),
        )["again"]
    except BadSample:
        return None
    ratio = metric.scale == "ratio"

    def shown(value: float | None) -> float | None:
        return value if value is None or not ratio else 100 * (value - 1)

    drifted = found.verdict not in ("level", "no margin", *_OPEN)
    told = comparisons.change_words(found, metric.unit, ratio=ratio)
    words = note("baseline_drifted", change=told) if drifted else note("baseline_back", open=found.verdict in _OPEN)
    return ReturnShape(
        test=test,
        metric=metric.key,
        at=again[0].at,
        change=shown(found.change) or 0.0,
        low=shown(found.change_low),
        high=shown(found.change_high),
        verdict=found.verdict,
        drifted=drifted,
        n=found.n,
        n_first=found.n_baseline,
        words=say(words),
    )
