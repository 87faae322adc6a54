"""Section 9 of the method: how work scales with threads, channels or nodes."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from nomothet.core.errors import BadSample
from nomothet.core.pairwise import Turn, turned_cells
from nomothet.core.passes import antilog, mean_of

Floats = NDArray[np.float64]

# Below this the universal law has no peak worth the name.
LEAST_KAPPA = 1e-9
_AMDAHL_SIZES, _USL_SIZES = 2, 3
_STARTS = ((0.01, 1e-5), (0.1, 1e-3), (0.5, 1e-2), (1e-4, 1e-7), (0.9, 0.1))


@dataclass(frozen=True)
class Amdahl:
    """Parallel share p of `S = 1 / ((1 − p) + p/n)`, and the sum of squared residuals."""

    p: float
    rss: float


@dataclass(frozen=True)
class UniversalLaw:
    """`S = n / (1 + σ(n − 1) + κ n (n − 1))`; `peak` is where it turns down, `extrapolated` beyond the largest n."""

    sigma: float
    kappa: float
    rss: float
    peak: float | None
    extrapolated: bool


@dataclass(frozen=True)
class ScalingResult:
    """By rising n: speed-up over n = 1 and its share of n. Fits are None with too few sizes above 1."""

    n: list[float]
    speedup: list[float]
    efficiency: list[float]
    amdahl: Amdahl | None
    universal: UniversalLaw | None


def scaling(points: Mapping[float, Sequence[float]], direction: Turn = "higher") -> ScalingResult:
    """Speed-up against n, with two laws fitted to it, unweighted.

    Parameters
    ----------
    points : mapping of n to values
        Rates, or times where lower is better.

    Raises
    ------
    BadSample
        When n = 1 was not measured, an n is not above 0, or a point has no pass.

    References
    ----------
    Amdahl (1967); Gunther (1993), universal scalability law.

    Examples
    --------
    >>> found = scaling({n: [1 / (0.1 + 0.9 / n)] for n in (1, 2, 4, 8)})
    >>> round(found.amdahl.p, 9)
    0.9
    """
    wrong = [n for n in points if not 0 < n < math.inf]
    if wrong:
        raise BadSample(f"n is {wrong[0]:g}; it must be above 0")
    if 1 not in points:
        raise BadSample("n = 1 was not measured, so there is nothing to scale from")
    sizes = sorted(points)
    cells = turned_cells({f"n = {n:g}": points[n] for n in sizes}, direction)
    first = mean_of(cells["n = 1"])
    speedup = [antilog(mean_of(cells[f"n = {n:g}"]) - first) for n in sizes]
    n, s = np.array(sizes, float), np.array(speedup)
    above = int(np.count_nonzero(n > 1))
    return ScalingResult(
        list(map(float, sizes)),
        speedup,
        [value / size for size, value in zip(sizes, speedup, strict=True)],
        _amdahl(n, s) if above >= _AMDAHL_SIZES else None,
        _universal(n, s) if above >= _USL_SIZES else None,
    )


def _amdahl(n: Floats, s: Floats) -> Amdahl:
    def rss(p: float) -> float:
        return float(((s - 1 / ((1 - p) + p / n)) ** 2).sum())

    # A fine net first: the sum of squares may have more than one valley.
    net = np.linspace(0, 1, 1001)
    at = int(np.argmin([rss(p) for p in net]))
    low, high = net[max(0, at - 1)], net[min(len(net) - 1, at + 1)]
    found = scipy.optimize.minimize_scalar(rss, bounds=(low, high), method="bounded", options={"xatol": 1e-13})
    p = min((float(found.x), 0.0, 1.0), key=rss)
    return Amdahl(p, rss(p))


def _universal(n: Floats, s: Floats) -> UniversalLaw:
    def residuals(law: Floats) -> Floats:
        found: Floats = s - n / (1 + law[0] * (n - 1) + law[1] * n * (n - 1))
        return found

    def slopes(law: Floats) -> Floats:
        below = (1 + law[0] * (n - 1) + law[1] * n * (n - 1)) ** 2
        found: Floats = np.column_stack([n * (n - 1) / below, n * n * (n - 1) / below])
        return found

    fits = [
        scipy.optimize.least_squares(
            residuals, start, slopes, bounds=((0, 0), (np.inf, np.inf)), xtol=1e-15, ftol=1e-15, gtol=1e-15,
            x_scale="jac",
        )
        for start in _STARTS
    ]  # fmt: skip
    candidates = [np.array(fit.x) for fit in fits]
    candidates += [_on_edge(residuals, slopes, at) for at in (0, 1)]
    sigma, kappa = min(candidates, key=lambda law: float((residuals(law) ** 2).sum()))
    rss = float((residuals(np.array([sigma, kappa])) ** 2).sum())
    peak = math.sqrt((1 - sigma) / kappa) if kappa > LEAST_KAPPA and sigma < 1 else None
    return UniversalLaw(float(sigma), float(kappa), rss, peak, peak is not None and peak > float(n.max()))


def _on_edge(residuals: Callable[[Floats], Floats], slopes: Callable[[Floats], Floats], fixed: int) -> Floats:
    """The best law with one of its two parameters at 0, where a fit inside only comes near."""

    def law(value: Floats) -> Floats:
        found = np.zeros(2)
        found[1 - fixed] = value[0]
        return found

    def on_edge(value: Floats) -> Floats:
        return residuals(law(value))

    def slope(value: Floats) -> Floats:
        found: Floats = slopes(law(value))[:, [1 - fixed]]
        return found

    fits = [
        scipy.optimize.least_squares(
            on_edge,
            [start],
            slope,
            bounds=(0, np.inf),
            xtol=1e-15,
            ftol=1e-15,
            gtol=1e-15,
        )
        for start in (1e-4, 0.01, 0.3)
    ]
    return law(min(fits, key=lambda fit: fit.cost).x)
