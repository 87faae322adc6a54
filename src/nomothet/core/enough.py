"""Section 17 of the method: how much memory, graphics memory or storage is enough."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from nomothet.core.errors import BadSample

DEFAULT_RESERVE = 0.20
# A use that comes so near to the capacity may have wanted more.
CUT_OFF = 0.97


@dataclass(frozen=True)
class Use:
    """Use of one test, in the sensor's unit: peak, 95th percentile, and what of the peak is over the idle baseline.

    `cut_off` where the peak came within 3 % of the capacity: what was wanted is unknown, and at least this.
    """

    peak: float
    p95: float
    added: float | None
    cut_off: bool
    capacity: float | None = None


@dataclass(frozen=True)
class Enough:
    """The size that is enough: the highest peak over the tests plus the reserve.

    `size` is the smallest on offer that holds it, None where none does; `at_least` where some use was cut off.
    """

    tests: dict[str, Use]
    leading: str
    needed: float
    size: float | None
    at_least: bool


def use_of(values: ArrayLike, *, capacity: float | None = None, idle: float | None = None) -> Use:
    """Use of a memory over a run.

    Parameters
    ----------
    values : (n,) array_like
        Readings in order; NaN where one failed.
    idle : float, optional
        What the machine uses without the workload.

    Raises
    ------
    BadSample
        When there is no reading, or the capacity is not above 0.

    Examples
    --------
    >>> use_of([2.0, 5.0, 6.0], capacity=8.0, idle=2.0)
    Use(peak=6.0, p95=5.9, added=4.0, cut_off=False, capacity=8.0)
    """
    if capacity is not None and not 0 < capacity < np.inf:
        raise BadSample(f"the capacity is {capacity:g}; it must be above 0")
    read = np.asarray(values, dtype=np.float64)
    read = read[np.isfinite(read)]
    if not len(read):
        raise BadSample("the use of memory was not recorded")
    peak = float(read.max())
    cut_off = capacity is not None and peak >= CUT_OFF * capacity
    return Use(peak, float(np.quantile(read, 0.95)), None if idle is None else max(0.0, peak - idle), cut_off, capacity)


def enough(tests: Mapping[str, Use], sizes: Sequence[float], reserve: float = DEFAULT_RESERVE) -> Enough:
    """The size that is enough for all tests.

    Parameters
    ----------
    sizes : sequence of float
        What can be had, in the unit of the uses.
    reserve : float
        Fraction of the highest peak that is to stay free beyond it.

    Raises
    ------
    BadSample
        When no test has a use, or the reserve is negative.

    Examples
    --------
    >>> found = enough({"flight": Use(6.1, 5.9, None, False), "walk": Use(3.0, 2.9, None, False)}, [4, 8, 16])
    >>> found.leading, round(found.needed, 2), found.size
    ('flight', 7.32, 8)
    """
    if not tests:
        raise BadSample("no test has a record of its use of memory")
    if reserve < 0:
        raise BadSample(f"the reserve is {reserve:g}; it must not be negative")
    leading = max(tests, key=lambda name: tests[name].peak)
    needed = tests[leading].peak * (1 + reserve)
    size = min((one for one in sizes if one >= needed), default=None)
    return Enough(dict(tests), leading, needed, size, any(use.cut_off for use in tests.values()))
