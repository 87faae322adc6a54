"""Section 5 of the method: an ordered factor, level by level."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise, sidak_level
from nomothet.core.pairwise import Pairwise, Turn, against, noise_of, turned_cells
from nomothet.core.passes import ALPHA, antilog, mean_of, t_quantile

# A knee of fewer numeric levels is no curve.
LEAST_FOR_KNEE = 4
_ABOVE = 1e-12


@dataclass(frozen=True)
class Level:
    """A level of the factor with its kept values; prices are of one basis and currency, or None."""

    level: float | str
    values: Sequence[float]
    price: float | None = None


@dataclass(frozen=True)
class Gain:
    """What a level brings over the one before; in % for each unit of the factor and of the price, where known."""

    comparison: Pairwise
    per_unit_pct: float | None
    per_price_pct: float | None


@dataclass(frozen=True)
class LevelResult:
    """A level with its own interval, against the one before, and against the best."""

    level: float | str
    centre: float
    low: float | None
    high: float | None
    gain: Gain | None
    # None for the best itself.
    against_best: Pairwise | None


@dataclass(frozen=True)
class Knee:
    """The level farthest above the chord of the first and the last, both axes stretched to 0…1; a reading aid only."""

    level: float
    distance: float


@dataclass(frozen=True)
class SweepResult:
    """`enough` is the lowest level that is not behind the best, `tapering_at` the first whose gain is no gain."""

    levels: list[LevelResult]
    best: float | str
    enough: float | str
    tapering_at: float | str | None
    knee: Knee | None


def sweep(levels: Sequence[Level], direction: Turn = "higher", margin: float = 0.03) -> SweepResult:
    """What every level of a factor is worth.

    Numeric levels are brought into rising order, words stay as they are.

    Raises
    ------
    BadSample
        With fewer than two levels, a level that is there twice or has no pass, or numbers and words together.

    References
    ----------
    Satopää et al. (2011) for the knee.

    Examples
    --------
    >>> values = {1: [100, 100.5], 2: [150, 150.5], 3: [160, 160.5], 4: [161, 161.5]}
    >>> found = sweep([Level(level, one) for level, one in values.items()])
    >>> found.best, found.enough, found.tapering_at, found.knee.level
    (4, 3, 4, 2)
    """
    ordered = _ordered(levels)
    names = [str(at) for at in range(len(ordered))]
    cells = turned_cells({name: one.values for name, one in zip(names, ordered, strict=True)}, direction)
    noise, level = noise_of(cells), sidak_level(len(ordered) - 1)
    turned = [cells[name] for name in names]
    means = [mean_of(y) for y in turned]
    at_best = max(range(len(means)), key=lambda at: means[at])
    results = []
    for at, one in enumerate(ordered):
        gain = _gain(ordered, turned, at, noise, level, margin) if at else None
        best = None if at == at_best else against(turned[at], turned[at_best], noise, level, margin)
        results.append(_result(one, turned[at], noise, direction, gain, best))
    behind = -math.log1p(margin)
    enough = next(
        one
        for one, result in zip(ordered, results, strict=True)
        if result.against_best is None or _low(result.against_best) > behind
    )
    tapering = next(
        (
            one.level
            for one in results
            if one.gain and one.gain.comparison.verdict in ("level", "slightly behind", "behind")
        ),
        None,
    )
    return SweepResult(results, ordered[at_best].level, enough.level, tapering, _knee(ordered, means))


def _ordered(levels: Sequence[Level]) -> list[Level]:
    if len(levels) < 2:
        raise BadSample("a sweep has two levels or more")
    numeric = [isinstance(one.level, int | float) and not isinstance(one.level, bool) for one in levels]
    if any(numeric) and not all(numeric):
        raise BadSample("the levels are numbers or words, not both")
    seen: set[float | str] = set()
    for one in levels:
        if one.level in seen:
            raise BadSample(f"the level {one.level} is there twice")
        seen.add(one.level)
    return sorted(levels, key=lambda one: float(one.level)) if all(numeric) else list(levels)


def _low(compared: Pairwise) -> float:
    return -math.inf if compared.low is None else math.log(compared.low)


def _gain(
    levels: Sequence[Level], turned: Sequence[Sequence[float]], at: int, noise: Noise, level: float, margin: float
) -> Gain:
    compared = against(turned[at], turned[at - 1], noise, level, margin)
    before, now = levels[at - 1], levels[at]
    more_pct = 100 * (compared.ratio - 1)
    per_unit = None
    if not isinstance(now.level, str) and not isinstance(before.level, str):
        per_unit = more_pct / (now.level - before.level)
    per_price = None
    if before.price is not None and now.price is not None and now.price > before.price:
        per_price = more_pct / (now.price - before.price)
    return Gain(compared, per_unit, per_price)


def _result(
    one: Level, y: Sequence[float], noise: Noise, direction: Turn, gain: Gain | None, best: Pairwise | None
) -> LevelResult:
    """The level's own interval takes the noise of all levels, so that a single pass has one too."""
    sign = -1.0 if direction == "lower" else 1.0
    mean = sign * mean_of(y)
    if not noise.df:
        return LevelResult(one.level, antilog(mean), None, None, gain, best)
    half = t_quantile(ALPHA, noise.df) * noise.sd / math.sqrt(len(y))
    return LevelResult(one.level, antilog(mean), antilog(mean - half), antilog(mean + half), gain, best)


def _knee(levels: Sequence[Level], means: Sequence[float]) -> Knee | None:
    if len(levels) < LEAST_FOR_KNEE or any(isinstance(one.level, str) for one in levels):
        return None
    factor = [float(one.level) for one in levels]
    lowest, highest = min(means), max(means)
    if highest <= lowest:
        return None
    x = [(one - factor[0]) / (factor[-1] - factor[0]) for one in factor]
    y = [(one - lowest) / (highest - lowest) for one in means]
    above = [b - (y[0] + (y[-1] - y[0]) * a) for a, b in zip(x, y, strict=True)]
    at = max(range(len(above)), key=lambda place: above[place])
    return Knee(levels[at].level, above[at]) if above[at] > _ABOVE else None  # type: ignore[arg-type]
