"""Return to the baseline: whether the baseline measured again at the end is what it was (section 19)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.core import compare
from nomothet.core.errors import BadSample
from nomothet.formats.words import Metric


@dataclass(frozen=True)
class ReturnShape:
    """The baseline again against its first passes, in one test; a shift that is not level is drift of the session."""

    test: int
    metric: str
    effect_pct: float
    low_pct: float | None
    high_pct: float | None
    verdict: str
    n: int
    n_first: int
    words: str


@dataclass(frozen=True)
class Timed:
    """A value of a kept baseline pass, and when it ran."""

    at: datetime
    value: float


def parted(own: Sequence[Timed], last_other: datetime | None) -> tuple[list[float], list[float]] | None:
    """The baseline's first passes, and those after the last pass of any other configuration; None without both."""
    if last_other is None:
        return None
    first = [one.value for one in own if one.at <= last_other]
    again = [one.value for one in own if one.at > last_other]
    return (first, again) if first and again else None


def returned(
    test: int,
    metric: Metric,
    first: Sequence[float],
    again: Sequence[float],
    cells: Mapping[str, Sequence[float]],
    margin: float,
    borrowed: compare.Noise | None,
) -> ReturnShape | None:
    """The comparison of section 3, with the noise of the whole test.

    Parameters
    ----------
    cells : mapping of str to numbers
        The other cells of the test, which take part in the noise only.
    """
    try:
        noise = compare.pooled_noise([first, again, *cells.values()], metric.scale)
        if noise.source == "unknown" and borrowed is not None:
            noise = borrowed
        found = compare.compare_with_baseline(
            {"first": first, "again": again},
            "first",
            direction=metric.direction,
            scale=metric.scale,
            margin=margin,
            noise=noise,
        )["again"]
    except BadSample:
        return None
    ratio = found.value_ratio is not None

    def shown(value: float | None) -> float | None:
        return value if value is None or not ratio else 100 * (value - 1)

    effect = shown(found.effect) or 0.0
    unit = "%" if ratio else metric.unit
    drifted = found.verdict not in ("level", "undecided", "noise unknown")
    words = (
        f"the session drifted: the baseline came back {abs(effect):.1f} {unit} {'better' if effect > 0 else 'worse'}"
        if drifted
        else "the baseline came back level"
        if found.verdict == "level"
        else "whether the baseline came back level cannot be told from so few passes"
    )
    return ReturnShape(
        test,
        metric.key,
        effect,
        shown(found.low),
        shown(found.high),
        found.verdict,
        found.n,
        found.n_baseline,
        words,
    )
