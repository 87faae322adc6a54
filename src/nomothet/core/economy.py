"""Section 14 of the method: energy, work per watt, and what is worth its price."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSample
from nomothet.core.frames import Floats
from nomothet.core.lane_statistics import LEAST_COVERED, integrate
from nomothet.core.noise import sidak_level
from nomothet.core.pairwise import Turn, against, noise_of, turned_cells


@dataclass(frozen=True)
class Energy:
    """Energy over a window in J, and its mean power in W; `covered` is the share of the window with readings."""

    energy_j: float
    mean_w: float
    covered: float


def energy(t_s: Floats, power_w: Floats, from_s: float, to_s: float) -> Energy | float:
    """The energy of a window, or only its covered share where too little of it was recorded.

    Parameters
    ----------
    t_s, power_w : (n,) array
        Rising times in seconds and power in watts, finite.

    Examples
    --------
    >>> import numpy as np
    >>> energy(np.array([0.0, 1.0, 2.0]), np.array([10.0, 20.0, 10.0]), 0.0, 2.0)
    Energy(energy_j=30.0, mean_w=15.0, covered=1.0)
    """
    if not to_s > from_s:
        raise BadSample(f"the window ends at {to_s:g} s; it must end after {from_s:g} s")
    window = to_s - from_s
    if not len(t_s):
        return 0.0
    total, seconds = integrate(t_s, power_w, from_s, to_s)
    covered = seconds / window
    if covered < LEAST_COVERED:
        return covered
    mean = total / seconds
    return Energy(mean * window, mean, covered)


@dataclass(frozen=True)
class Frontier:
    """Configurations that no other beats at its price or below, by price; who is beaten, by whom; who has no price."""

    frontier: list[str]
    beaten_by: dict[str, list[str]]
    without_price: list[str]


def frontier(
    configurations: Mapping[str, tuple[float | None, Sequence[float]]],
    direction: Turn = "higher",
    margin: float = 0.03,
) -> Frontier:
    """What is neither dearer nor slower: j beats i when it costs no more and is ahead of it for certain.

    Parameters
    ----------
    configurations : mapping of name to price and values
        Prices are of one basis and currency, above 0; None for those without.

    Examples
    --------
    >>> found = frontier({"A": (100, [50, 50.1]), "B": (90, [60, 60.1]), "C": (200, [60, 60.05])})
    >>> found.frontier, found.beaten_by
    (['B', 'C'], {'A': ['B']})
    """
    prices = {name: price for name, (price, _) in configurations.items() if price is not None}
    wrong = [name for name, price in prices.items() if not 0 <= price < math.inf]
    if wrong:
        raise BadSample(f"{wrong[0]}: a price is not below 0")
    cells = turned_cells({name: values for name, (_, values) in configurations.items()}, direction)
    noise, level = noise_of(cells), sidak_level(len(prices) - 1)
    beaten: dict[str, list[str]] = {}
    for name, price in prices.items():
        by = [
            other
            for other, its in prices.items()
            if other != name
            and its <= price
            and (low := against(cells[other], cells[name], noise, level, margin).low) is not None
            and low > 1
        ]
        if by:
            beaten[name] = by
    on_it = [name for name in prices if name not in beaten]
    return Frontier(
        sorted(on_it, key=lambda name: prices[name]),
        beaten,
        [name for name in configurations if name not in prices],
    )
