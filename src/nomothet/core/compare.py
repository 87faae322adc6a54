"""Section 3 of the method: a configuration against the baseline, for one test and one metric."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from nomothet.core.errors import BadSample
from nomothet.core.noise import (
    Noise,
    has_uneven_noise,
    own_noise,
    own_passes_needed,
    passes_needed,
    pooled,
    samples_of,
    sidak_level,
)
from nomothet.core.passes import Scale, antilog, mean_of, on_scale, squares_about_mean, t_quantile

Direction = Literal["higher", "lower", "neither"]
# "differs": of a metric of which neither more nor less is better. "no margin": the metric has none to be judged by.
Verdict = Literal[
    "ahead",
    "slightly ahead",
    "level",
    "slightly behind",
    "behind",
    "undecided",
    "noise unknown",
    "differs",
    "no margin",
]

DEFAULT_MARGIN = 0.03


@dataclass(frozen=True)
class Comparison:
    """One configuration against the baseline.

    `effect`, `low` and `high` serve verdicts and overall figures: more is better, whatever the metric's direction. On
    the ratio scale they are ratios above 0 and 1 is the baseline; on the difference scale they are differences in the
    metric's unit and 0 is the baseline. `low` and `high` are None where the noise is unknown.

    `change`, `change_low` and `change_high` are what is shown: the plain change of the value, other to baseline, as a
    ratio (for a time of 480 s against 640 s: 0.75, where the effect is 1.333) or as a difference.
    """

    effect: float
    low: float | None
    high: float | None
    change: float
    change_low: float | None
    change_high: float | None
    verdict: Verdict
    noise: Noise
    n: int
    n_baseline: int
    level: float
    passes_needed: int | None


def verdict_of(low: float, high: float, margin: float | None, direction: Direction = "higher") -> Verdict:
    """The verdict for an interval on the computing scale, where more is better and 0 is the baseline.

    Parameters
    ----------
    margin : float or None
        None where the metric has no margin: then there is no verdict word.
    direction : {"higher", "lower", "neither"}
        The interval is turned already; of *neither* nothing is ahead or behind.

    References
    ----------
    Schuirmann, D. J. (1987), A comparison of the two one-sided tests procedure and the power approach: *level* is an
    interval within the margin.

    Examples
    --------
    >>> verdict_of(0.035, 0.06, 0.03), verdict_of(0.01, 0.02, 0.03), verdict_of(-0.01, 0.06, 0.03)
    ('ahead', 'level', 'undecided')
    >>> verdict_of(0.035, 0.06, 0.03, "neither"), verdict_of(0.035, 0.06, None)
    ('differs', 'no margin')
    """
    if margin is None:
        return "no margin"
    within = -margin <= low and high <= margin
    if direction == "neither":
        return "level" if within else "differs" if low > 0 or high < 0 else "undecided"
    if low >= margin:
        return "ahead"
    if high <= -margin:
        return "behind"
    if within:
        return "level"
    if low > 0:
        return "slightly ahead"
    if high < 0:
        return "slightly behind"
    return "undecided"


def compare_with_baseline(
    cells: Mapping[str, Iterable[float]],
    baseline: str,
    *,
    direction: Direction = "higher",
    scale: Scale = "ratio",
    margin: float | None = DEFAULT_MARGIN,
    borrowed: Noise | None = None,
    spreads: Mapping[str, float] | None = None,
    others: Iterable[Iterable[float]] = (),
) -> dict[str, Comparison]:
    """Compare every cell of one test with the baseline's.

    Parameters
    ----------
    cells : mapping of str to n_j numbers
        The values of the kept passes per configuration. Empty cells are passed over.
    baseline : str
        The configuration that the others are compared with.
    margin : float or None
        Practical margin: a fraction on the ratio scale, in the metric's unit on the difference scale; None where the
        metric has none.
    borrowed : Noise, optional
        Noise of earlier reviews, used where the cells themselves show none (every cell has a single pass).
    spreads : mapping of str to float, optional
        Extra standard error of a cell's centre, on the computing scale, from readings that are not exact (section 18,
        `reading_error`).
    others : iterable of iterables of numbers
        Cells of the test that are not compared, and take part in the noise only.

    Returns
    -------
    dict of str to Comparison
        For every cell with a pass but the baseline.

    Raises
    ------
    BadSample
        When the baseline has no pass, or a value cannot be compared; the message names the cell.

    References
    ----------
    Georges, Buytaert and Eeckhout (2007), Statistically rigorous performance evaluation. Kalibera and Jones (2013),
    Rigorous benchmarking in reasonable time. Hoefler and Belli (2015), Scientific benchmarking of parallel systems.

    Examples
    --------
    >>> result = compare_with_baseline({"A": [100, 102, 98], "B": [110, 111, 109]}, "A")["B"]
    >>> f"{result.effect:.4f} {result.low:.4f} {result.high:.4f} {result.verdict}"
    '1.1001 1.0620 1.1396 ahead'
    """
    compared = SampleComparisons(
        samples_of(cells, scale),
        baseline,
        direction=direction,
        scale=scale,
        margin=margin,
        borrowed=borrowed,
        spreads=spreads,
        others=[y for values in others if (y := on_scale(values, scale))],
    )
    return {name: compared.of(name) for name in compared.names}


@dataclass(frozen=True)
class Rule:
    """What all comparisons of a test share."""

    noise: Noise
    cells: int
    uneven: bool
    level: float
    margin: float | None
    direction: Direction
    scale: Scale


class SampleComparisons:
    """Cells on the computing scale, none of them empty, held against the baseline: what all comparisons share is worked
    out once, and each when it is asked for.

    Raises
    ------
    BadSample
        When the margin is not above 0, or the baseline has no pass.
    """

    def __init__(
        self,
        samples: Mapping[str, Sequence[float]],
        baseline: str,
        *,
        direction: Direction,
        scale: Scale,
        margin: float | None,
        borrowed: Noise | None = None,
        spreads: Mapping[str, float] | None = None,
        others: Iterable[Sequence[float]] = (),
    ) -> None:
        if margin is not None and not 0 < margin < math.inf:
            raise BadSample(f"the margin is {margin:g}; it must be above 0")
        if baseline not in samples:
            raise BadSample(f"the baseline {baseline!r} has no pass; choose another baseline or run one")
        everything = [*samples.values(), *others]
        squares = [squares_about_mean(y) for y in everything]
        noise = pooled(everything, squares)
        if noise.source == "unknown" and borrowed is not None and borrowed.df > 0:
            noise = Noise(borrowed.sd, borrowed.df, "borrowed")
        # Those that are compared.
        self.names = [name for name in samples if name != baseline]
        self._samples, self._base, self._spreads = samples, baseline, spreads or {}
        self.rule = Rule(
            noise=noise,
            cells=len(everything),
            uneven=noise.source == "pooled" and has_uneven_noise(everything, squares),
            level=sidak_level(len(self.names)),
            margin=margin if margin is None or scale != "ratio" else math.log1p(margin),
            direction=direction,
            scale=scale,
        )

    def of(self, name: str) -> Comparison:
        """One cell against the baseline."""
        return _compare(self._samples[name], self._samples[self._base], self.rule, self.reading_error(name))

    def reading_error(self, name: str) -> float:
        """What readings that are not exact add to the standard error of the difference."""
        return math.hypot(self._spreads.get(name, 0.0), self._spreads.get(self._base, 0.0))


def _compare(y: Sequence[float], base: Sequence[float], rule: Rule, more: float) -> Comparison:
    raw = mean_of(y) - mean_of(base)
    turn = -1 if rule.direction == "lower" else 1
    back = antilog if rule.scale == "ratio" else float
    own = own_noise(y, base) if rule.uneven else None
    noise = own or rule.noise
    if noise.source == "unknown":
        return Comparison(
            effect=back(turn * raw),
            low=None,
            high=None,
            change=back(raw),
            change_low=None,
            change_high=None,
            verdict="noise unknown",
            noise=noise,
            n=len(y),
            n_baseline=len(base),
            level=rule.level,
            passes_needed=None,
        )
    error = math.hypot(_standard_error(y, base, noise), more)
    found = judged_difference(raw, error, noise, rule, (len(y), len(base)))
    if found.verdict != "undecided" or rule.margin is None:
        return found
    needed = (
        own_passes_needed(y, base, rule.level, rule.margin)
        if own
        else passes_needed(noise, rule.cells, rule.level, rule.margin)
    )
    return replace(found, passes_needed=needed)


def judged_difference(raw: float, error: float, noise: Noise, rule: Rule, counts: tuple[int, int]) -> Comparison:
    """A difference on the computing scale with its interval and verdict; what would settle it is left open.

    Parameters
    ----------
    raw, error : float
        The plain difference, not turned, and its standard error.
    counts : (int, int)
        Passes of the cell and of the baseline.
    """
    turn = -1 if rule.direction == "lower" else 1
    back = antilog if rule.scale == "ratio" else float
    half, d = t_quantile(rule.level, noise.df) * error, turn * raw
    verdict = verdict_of(d - half, d + half, rule.margin, rule.direction)
    return Comparison(
        effect=back(d),
        low=back(d - half),
        high=back(d + half),
        change=back(raw),
        change_low=back(raw - half),
        change_high=back(raw + half),
        verdict=verdict,
        noise=noise,
        n=counts[0],
        n_baseline=counts[1],
        level=rule.level,
        passes_needed=None,
    )


def _standard_error(y: Sequence[float], base: Sequence[float], noise: Noise) -> float:
    if noise.source != "own":
        return noise.sd * math.sqrt(1 / len(y) + 1 / len(base))
    return math.sqrt(math.fsum(pooled([one]).sd ** 2 / len(one) for one in (y, base)))
