"""Section 3 of the method: a configuration against the baseline, for one test and one metric."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.errors import BadSample
from nomothet.core.passes import ALPHA, Scale, mean_of, on_scale, squares_about_mean, t_quantile

Direction = Literal["higher", "lower"]
Verdict = Literal["ahead", "slightly ahead", "level", "slightly behind", "behind", "undecided", "noise unknown"]
NoiseSource = Literal["pooled", "borrowed", "unknown"]

DEFAULT_MARGIN = 0.03
MOST_PASSES = 50


@dataclass(frozen=True)
class Noise:
    """Run-to-run noise on the computing scale (SD of logs or of values) with its degrees of freedom."""

    sd: float
    df: int
    source: NoiseSource


@dataclass(frozen=True)
class Comparison:
    """One configuration against the baseline.

    On the ratio scale `effect`, `low` and `high` are ratios above 0 and 1 is the baseline; on the difference scale
    they are differences in the metric's unit and 0 is the baseline. Either way more is better, whatever the metric's
    direction. `low` and `high` are None where the noise is unknown.

    `value_ratio` is the plain ratio of the centres, other to baseline (for a time of 480 s against 640 s: 0.75, where
    the effect is 1.333); on the difference scale it is None.
    """

    effect: float
    low: float | None
    high: float | None
    verdict: Verdict
    noise: Noise
    n: int
    n_baseline: int
    level: float
    passes_needed: int | None
    value_ratio: float | None


def pooled_noise(cells: Iterable[Iterable[float]], scale: Scale = "ratio") -> Noise:
    """The noise of a test, pooled over its cells: `s² = Σ (n_j − 1) s_j² / Σ (n_j − 1)`.

    Examples
    --------
    >>> noise = pooled_noise([[100, 102, 98], [110, 111, 109]])
    >>> round(100 * noise.sd, 3), noise.df
    (1.554, 4)
    """
    return _pooled([on_scale(values, scale) for values in cells])


def _pooled(samples: Iterable[Sequence[float]]) -> Noise:
    several = [y for y in samples if len(y) > 1]
    df = sum(len(y) - 1 for y in several)
    if df == 0:
        return Noise(math.nan, 0, "unknown")
    return Noise(math.sqrt(math.fsum(squares_about_mean(y) for y in several) / df), df, "pooled")


def sidak_level(comparisons: int, alpha: float = ALPHA) -> float:
    """Error probability for each of m comparisons with one baseline (Šidák 1967).

    >>> round(sidak_level(3), 5)
    0.01695
    """
    return float(1 - (1 - alpha) ** (1 / max(1, comparisons)))


def verdict_of(low: float, high: float, margin: float) -> Verdict:
    """The verdict for an interval on the computing scale, where more is better and 0 is the baseline.

    References
    ----------
    Schuirmann, D. J. (1987), A comparison of the two one-sided tests procedure and the power approach: *level* is an
    interval within the margin.

    Examples
    --------
    >>> verdict_of(0.035, 0.06, 0.03), verdict_of(0.01, 0.02, 0.03), verdict_of(-0.01, 0.06, 0.03)
    ('ahead', 'level', 'undecided')
    """
    if low >= margin:
        return "ahead"
    if high <= -margin:
        return "behind"
    if -margin <= low and high <= margin:
        return "level"
    if low > 0:
        return "slightly ahead"
    if high < 0:
        return "slightly behind"
    return "undecided"


def passes_needed(noise: Noise, cells: int, level: float, margin: float) -> int | None:
    """The smallest number of passes per cell with which the interval is no wider than the margin.

    Parameters
    ----------
    noise : Noise
        Pooled noise gains degrees of freedom with the passes, `cells · (n − 1)`; borrowed noise keeps its own.
    cells : int
        Cells of the test whose passes make up the pooled noise.
    margin : float
        Half-width wanted, on the computing scale.

    Returns
    -------
    int or None
        None when 50 passes per cell are not enough.
    """
    for n in range(2, MOST_PASSES + 1):
        df = noise.df if noise.source == "borrowed" else cells * (n - 1)
        if t_quantile(level, df) * noise.sd * math.sqrt(2 / n) <= margin:
            return n
    return None


def compare_with_baseline(
    cells: Mapping[str, Iterable[float]],
    baseline: str,
    *,
    direction: Direction = "higher",
    scale: Scale = "ratio",
    margin: float = DEFAULT_MARGIN,
    borrowed: Noise | None = None,
    spreads: Mapping[str, float] | None = None,
    noise: Noise | None = None,
) -> dict[str, Comparison]:
    """Compare every cell of one test with the baseline's.

    Parameters
    ----------
    cells : mapping of str to n_j numbers
        The values of the kept passes per configuration. Empty cells are passed over.
    baseline : str
        The configuration that the others are compared with.
    margin : float
        Practical margin: a fraction on the ratio scale, in the metric's unit on the difference scale.
    borrowed : Noise, optional
        Noise of earlier reviews, used where the cells themselves show none (every cell has a single pass).
    spreads : mapping of str to float, optional
        Extra standard error of a cell's centre, on the computing scale, from readings that are not exact (section 18,
        `reading_error`).

    noise : Noise, optional
        The noise of the test, where the cells given are not all of it; pooled over the cells given without it.

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
    if margin < 0:
        raise BadSample(f"the margin is {margin:g}; it must not be negative")
    samples = _samples(cells, scale)
    if baseline not in samples:
        raise BadSample(f"the baseline {baseline!r} has no pass; choose another baseline or run one")
    noise = noise or _pooled(samples.values())
    if noise.source == "unknown" and borrowed is not None and borrowed.df > 0:
        noise = Noise(borrowed.sd, borrowed.df, "borrowed")
    others = [name for name in samples if name != baseline]
    level = sidak_level(len(others))
    half_margin = math.log1p(margin) if scale == "ratio" else margin
    base = samples[baseline]
    needed = None if noise.source == "unknown" else passes_needed(noise, len(samples), level, half_margin)
    sign = 1 if direction == "higher" else -1
    extra = spreads or {}

    def compared(name: str) -> Comparison:
        more = math.hypot(extra.get(name, 0.0), extra.get(baseline, 0.0))
        return _compare(samples[name], base, noise, level, half_margin, sign, scale, needed, more)

    return {name: compared(name) for name in others}


def reading_error(values: Sequence[float], spreads: Sequence[float], scale: Scale) -> float:
    """The standard error that readings bring to their cell's centre: `√Σ u² / n`, with `u / y` on the ratio scale.

    >>> reading_error([50.0, 50.0], [1.0, 0.0], "ratio")
    0.01
    """
    if not values:
        return 0.0
    parts = [
        u / y if scale == "ratio" else u for y, u in zip(values, spreads, strict=True) if scale != "ratio" or y > 0
    ]
    return math.sqrt(math.fsum(u * u for u in parts)) / len(values)


def _samples(cells: Mapping[str, Iterable[float]], scale: Scale) -> dict[str, list[float]]:
    samples = {}
    for name, values in cells.items():
        try:
            y = on_scale(values, scale)
        except BadSample as error:
            raise BadSample(f"cell {name!r}: {error}") from None
        if y:
            samples[name] = y
    return samples


def _compare(
    y: Sequence[float],
    base: Sequence[float],
    noise: Noise,
    level: float,
    margin: float,
    sign: int,
    scale: Scale,
    needed: int | None,
    more: float,
) -> Comparison:
    raw = mean_of(y) - mean_of(base)
    d = sign * raw
    back = math.exp if scale == "ratio" else float
    value_ratio = math.exp(raw) if scale == "ratio" else None
    if noise.source == "unknown":
        return Comparison(back(d), None, None, "noise unknown", noise, len(y), len(base), level, None, value_ratio)
    error = math.hypot(noise.sd * math.sqrt(1 / len(y) + 1 / len(base)), more)
    half = t_quantile(level, noise.df) * error
    verdict = verdict_of(d - half, d + half, margin)
    return Comparison(
        effect=back(d),
        low=back(d - half),
        high=back(d + half),
        verdict=verdict,
        noise=noise,
        n=len(y),
        n_baseline=len(base),
        level=level,
        passes_needed=needed if verdict == "undecided" else None,
        value_ratio=value_ratio,
    )
