"""Section 14 of the method: energy, work per watt, and what is worth its price."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from nomothet.core.errors import BadSample
from nomothet.core.frames import Floats
from nomothet.core.lane_statistics import LEAST_COVERED, integrate
from nomothet.core.noise import sidak_level
from nomothet.core.pairwise import Turn, against, noise_of, turned_cells
from nomothet.core.segments import Span

# Where power is told, by the sensor's quantity; sources are never mixed.
POWER_SOURCES = {"wall power": "at the wall", "power": "package", "graphics power": "card"}


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


def energy_of_windows(t_s: Floats, power_w: Floats, windows: Sequence[Span]) -> Energy | None:
    """The energy of several windows together, without overlaps; None where too little of them was recorded.

    Readings that are not there are passed over.

    Examples
    --------
    >>> import numpy as np
    >>> t, w = np.arange(11.0), np.full(11, 20.0)
    >>> energy_of_windows(t, w, [Span(0.0, 4.0), Span(6.0, 10.0)])
    Energy(energy_j=160.0, mean_w=20.0, covered=1.0)
    """
    there = np.isfinite(power_w) & np.isfinite(t_s)
    t, w = t_s[there], power_w[there]
    whole = sum(one.end_s - one.start_s for one in windows)
    if not len(t) or whole <= 0:
        return None
    parts = [integrate(t, w, one.start_s, one.end_s) for one in windows]
    seconds = sum(part[1] for part in parts)
    if seconds < LEAST_COVERED * whole:
        return None
    mean = sum(part[0] for part in parts) / seconds
    return Energy(mean * whole, mean, min(1.0, seconds / whole))


def work_per_watt(value: float, mean_w: float, *, is_time: bool = False) -> float | None:
    """The rate of a pass over its mean power, which is its work per joule; of a time its reciprocal is the rate.

    None where the power is not above 0, as it can be once idle is taken off.

    >>> work_per_watt(60.0, 30.0), work_per_watt(100.0, 50.0, is_time=True), work_per_watt(60.0, -1.0)
    (2.0, 0.0002, None)
    """
    if mean_w <= 0 or value <= 0:
        return None
    return 1 / (value * mean_w) if is_time else value / mean_w


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

    def surely_ahead(other: str, name: str) -> bool:
        low = against(cells[other], cells[name], noise, level, margin).low
        return low is not None and low > 1

    return frontier_by({name: price for name, (price, _) in configurations.items()}, surely_ahead)


def frontier_by(prices: Mapping[str, float | None], surely_ahead: Callable[[str, str], bool]) -> Frontier:
    """The same where somebody else compares, as over several tests: `surely_ahead(j, i)` is that j has L > 0 over i.

    >>> frontier_by({"A": 100, "B": 90, "C": None}, lambda j, i: (j, i) == ("B", "A"))
    Frontier(frontier=['B'], beaten_by={'A': ['B']}, without_price=['C'])
    """
    known = {name: price for name, price in prices.items() if price is not None}
    beaten: dict[str, list[str]] = {}
    for name, price in known.items():
        by = [other for other, its in known.items() if other != name and its <= price and surely_ahead(other, name)]
        if by:
            beaten[name] = by
    on_it = [name for name in known if name not in beaten]
    return Frontier(sorted(on_it, key=lambda name: known[name]), beaten, [one for one in prices if one not in known])
