"""Laying traces of several passes over one another: by their starts, by a mark, or where they match best."""

from dataclasses import dataclass

import numpy as np

from nomothet.core.frames import Floats

STEP_S = 0.25
_SMOOTH_STEPS = 4
_LEAST_OVERLAP = 0.5


@dataclass(frozen=True)
class Match:
    """Shift in seconds to add to the second trace's clock, and the correlation there (-1 … 1)."""

    shift_s: float
    correlation: float


def best_match(a_ms: Floats, b_ms: Floats, most_shift_s: float = 20.0) -> Match:
    """Where two frame series match best: the shift with the highest correlation of their smoothed log frame times.

    Parameters
    ----------
    a_ms, b_ms : (n,), (m,) array
        Frame times, each finite and above 0.
    most_shift_s : float
        Shifts tried, either way; at least half of the shorter trace must overlap.

    Examples
    --------
    >>> t = np.arange(0, 60, 0.02)
    >>> scene = 20 + 5 * np.sin(t / 3) + 3 * np.sin(t / 1.3)
    >>> best_match(scene, scene[200:]).shift_s > 0
    True
    """
    a, b = _by_steps(a_ms), _by_steps(b_ms)
    most = round(most_shift_s / STEP_S)
    least = max(8, int(_LEAST_OVERLAP * min(len(a), len(b))))
    best = Match(0.0, _correlation(a, b, 0, least) or 0.0)
    for shift in range(-most, most + 1):
        found = _correlation(a, b, shift, least)
        if found is not None and found > best.correlation + 1e-9:
            best = Match(shift * STEP_S, found)
    return best


def _by_steps(f: Floats) -> Floats:
    """Log of the mean frame time about each step, smoothed over a second."""
    ends = np.cumsum(f) / 1000
    steps = np.arange(STEP_S / 2, ends[-1], STEP_S)
    if not len(steps):
        steps = np.array([ends[-1] / 2])
    half = STEP_S * _SMOOTH_STEPS / 2
    first = np.searchsorted(ends, steps - half)
    last = np.maximum(first + 1, np.searchsorted(ends, steps + half, side="right"))
    last = np.minimum(last, len(f))
    first = np.minimum(first, last - 1)
    running = np.concatenate([[0.0], np.cumsum(f)])
    out: Floats = np.log((running[last] - running[first]) / (last - first))
    return out


def _correlation(a: Floats, b: Floats, shift: int, least: int) -> float | None:
    """Correlation where b, moved by `shift` steps to the right, lies over a."""
    low, high = max(0, shift), min(len(a), len(b) + shift)
    if high - low < least:
        return None
    x, y = a[low:high], b[low - shift : high - shift]
    x, y = x - x.mean(), y - y.mean()
    size = float(np.sqrt((x @ x) * (y @ y)))
    return float(x @ y) / size if size > 1e-12 else 0.0
