"""Section 7 of the method: a grid of factors with two levels each."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product

from nomothet.core.errors import BadSample
from nomothet.core.noise import sidak_level
from nomothet.core.pairwise import Pairwise, Turn, judged, noise_of, turned_cells
from nomothet.core.passes import mean_of

# So many factors make 64 cells; more is no review.
MOST_FACTORS = 6


@dataclass(frozen=True)
class GridResult:
    """Effects by the factors they are of, main effects first: ratios of the second level to the first.

    That of two factors is the ratio of ratios: how much more the one brings where the other is at its second level.
    """

    effects: dict[tuple[str, ...], Pairwise]
    df: float


def grid(
    factors: Sequence[str],
    cells: Mapping[tuple[int, ...], Sequence[float]],
    direction: Turn = "higher",
    margin: float = 0.03,
) -> GridResult:
    """Main effects and interactions of 2^k cells, by contrasts of the cells' means, each cell weighing the same.

    Parameters
    ----------
    cells : mapping of levels (0 or 1 for each factor) to values

    Raises
    ------
    BadSample
        Names the cells that lack passes: a grid with a hole tells no effects apart.

    References
    ----------
    Box, Hunter & Hunter (2005), Statistics for experimenters.

    Examples
    --------
    >>> two = {(0, 0): [100, 100], (1, 0): [110, 110], (0, 1): [100, 100], (1, 1): [121, 121]}
    >>> [round(one.ratio ** 2, 9) for one in grid(["a", "b"], two).effects.values()]
    [1.331, 1.1, 1.21]
    """
    k = len(factors)
    if not 1 <= k <= MOST_FACTORS:
        raise BadSample(f"a grid has 1 to {MOST_FACTORS} factors")
    if len(set(factors)) < k:
        raise BadSample(f"{next(one for one in factors if list(factors).count(one) > 1)} is there twice")
    wanted = list(product((0, 1), repeat=k))
    lacking = [levels for levels in wanted if not cells.get(levels)]
    if lacking:
        raise BadSample(f"not enough data: no pass at {'; '.join(_told(factors, levels) for levels in lacking)}")
    turned = turned_cells({_told(factors, levels): cells[levels] for levels in wanted}, direction)
    noise, level = noise_of(turned), sidak_level(2**k - 1)
    means = [mean_of(turned[_told(factors, levels)]) for levels in wanted]
    spread = noise.sd * math.sqrt(math.fsum(1 / len(y) for y in turned.values()))
    effects = {}
    for size in range(1, k + 1):
        share = 2.0 ** (size - k)
        for chosen in combinations(range(k), size):
            signs = [math.prod(1 if levels[at] else -1 for at in chosen) for levels in wanted]
            contrast = share * math.fsum(sign * mean for sign, mean in zip(signs, means, strict=True))
            effects[tuple(factors[at] for at in chosen)] = judged(contrast, share * spread, noise.df, level, margin)
    return GridResult(effects, noise.df)


def _told(factors: Sequence[str], levels: Sequence[int]) -> str:
    return ", ".join(f"{factor} {level}" for factor, level in zip(factors, levels, strict=True))
