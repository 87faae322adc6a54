"""Section 3 of the method: the run-to-run noise of a test, whether it is uneven, and how many passes would do."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import scipy

from nomothet.core.errors import BadSample
from nomothet.core.passes import ALPHA, Scale, on_scale, squares_about_mean, t_quantile

NoiseSource = Literal["pooled", "own", "borrowed", "unknown"]

MOST_PASSES = 50
# An interval of this share of the margin leaves room for a difference that is not exactly none.
WANTED_SHARE = 0.6
# The error level of the F test for uneven noise, shared by the cells of a test.
UNEVEN_LEVEL = 0.01


@dataclass(frozen=True)
class Noise:
    """Run-to-run noise on the computing scale (SD of logs or of values) with its degrees of freedom.

    `source`: pooled over the cells of a test, the own noise of two cells of a test with uneven noise (then `sd` is
    `√((s_c² + s_b²)/2)` and `df` is Welch's), borrowed from earlier reviews, or unknown.
    """

    sd: float
    df: float
    source: NoiseSource


UNKNOWN = Noise(math.nan, 0, "unknown")


def pooled_noise(cells: Iterable[Iterable[float]], scale: Scale = "ratio") -> Noise:
    """The noise of a test, pooled over its cells: `s² = Σ (n_j − 1) s_j² / Σ (n_j − 1)`.

    Examples
    --------
    >>> noise = pooled_noise([[100, 102, 98], [110, 111, 109]])
    >>> round(100 * noise.sd, 3), noise.df
    (1.554, 4)
    """
    return pooled([on_scale(values, scale) for values in cells])


def pooled(samples: Iterable[Sequence[float]], squares: Sequence[float] | None = None) -> Noise:
    """The same for values that are on the computing scale already; `squares` are those about each cell's mean, where
    they are known."""
    held = list(samples)
    df = sum(len(y) - 1 for y in held if y)
    if df == 0:
        return UNKNOWN
    known = [squares_about_mean(y) for y in held if len(y) > 1] if squares is None else squares
    return Noise(math.sqrt(math.fsum(known) / df), df, "pooled")


def has_uneven_noise(samples: Sequence[Sequence[float]], squares: Sequence[float] | None = None) -> bool:
    """Whether some cell of a test is noisier than its other cells together.

    Parameters
    ----------
    samples : sequence of (n_j,) sequences
        The cells with at least one pass, on the computing scale.
    squares : (n,) sequence, optional
        Those about each cell's mean, where they are known.

    References
    ----------
    The upper F test of the cell's variance against the pooled variance of the others, at 1 % / number of cells.

    Examples
    --------
    >>> quiet = [[0.0, 0.01, -0.01, 0.005]] * 3
    >>> has_uneven_noise([*quiet, [0.0, 0.2, -0.3, 0.1]]), has_uneven_noise([*quiet, [0.0, 0.012, -0.01, 0.0]])
    (True, False)
    """
    squares = [squares_about_mean(y) for y in samples] if squares is None else squares
    degrees = [len(y) - 1 for y in samples]
    # An exact sum, so that what is left without a cell is right whatever its share.
    all_squares, all_degrees = math.fsum(squares), sum(degrees)
    for at, own in enumerate(degrees):
        others = all_degrees - own
        if own < 1 or others < 1 or squares[at] <= 0:
            continue
        rest = (all_squares - squares[at]) / others
        if rest <= 0:
            return True
        ratio = squares[at] / own / rest
        if float(scipy.special.fdtrc(own, others, ratio)) < UNEVEN_LEVEL / len(samples):
            return True
    return False


def own_noise(a: Sequence[float], b: Sequence[float]) -> Noise | None:
    """The noise of two cells by their own variances; None where one has a single pass or both have no spread.

    References
    ----------
    Welch, B. L. (1947): the degrees of freedom of `s_a²/n_a + s_b²/n_b`.
    """
    if min(len(a), len(b)) < 2:
        return None
    var_a, var_b = (squares_about_mean(y) / (len(y) - 1) for y in (a, b))
    of_a, of_b = var_a / len(a), var_b / len(b)
    if of_a + of_b <= 0:
        return None
    df = (of_a + of_b) ** 2 / (of_a**2 / (len(a) - 1) + of_b**2 / (len(b) - 1))
    return Noise(math.sqrt((var_a + var_b) / 2), df, "own")


@lru_cache(maxsize=1024)
def passes_needed(noise: Noise, cells: int, level: float, margin: float) -> int | None:
    """The smallest number of passes per cell with which the interval is no wider than 0.6 of the margin.

    Parameters
    ----------
    noise : Noise
        Pooled noise gains degrees of freedom with the passes, `cells · (n − 1)`; borrowed noise keeps its own.
    cells : int
        Cells of the test whose passes make up the pooled noise.
    margin : float
        The margin on the computing scale.

    Returns
    -------
    int or None
        None when 50 passes per cell are not enough.
    """
    for n in range(2, MOST_PASSES + 1):
        df = noise.df if noise.source == "borrowed" else cells * (n - 1)
        if _narrow(t_quantile(level, df) * noise.sd * math.sqrt(2 / n), margin):
            return n
    return None


def own_passes_needed(a: Sequence[float], b: Sequence[float], level: float, margin: float) -> int | None:
    """The same for two cells by their own variances, with Welch's degrees of freedom for n passes each."""
    var_a, var_b = (squares_about_mean(y) / (len(y) - 1) for y in (a, b))
    both = var_a + var_b
    for n in range(2, MOST_PASSES + 1):
        df = both**2 / (var_a**2 + var_b**2) * (n - 1)
        if _narrow(t_quantile(level, df) * math.sqrt(both / n), margin):
            return n
    return None


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


def sidak_level(comparisons: int, alpha: float = ALPHA) -> float:
    """Error probability for each of m comparisons with one baseline (Šidák 1967).

    >>> round(sidak_level(3), 5)
    0.01695
    """
    return float(1 - (1 - alpha) ** (1 / max(1, comparisons)))


def samples_of(cells: Mapping[str, Iterable[float]], scale: Scale) -> dict[str, list[float]]:
    """Cells on the computing scale, without the empty ones.

    Raises
    ------
    BadSample
        When a value cannot be compared; the message names the cell.
    """
    samples = {}
    for name, values in cells.items():
        try:
            y = on_scale(values, scale)
        except BadSample as error:
            raise BadSample(f"cell {name!r}: {error}") from None
        if y:
            samples[name] = y
    return samples


def _narrow(half: float, margin: float) -> bool:
    return half <= WANTED_SHARE * margin
