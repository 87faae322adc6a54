"""Section 2 of the method: the low over the frames of all kept passes of a cell, where single passes are too short."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from nomothet.core.frames import TAIL_FRAMES, Floats, tail_length
from nomothet.core.passes import ALPHA, LowDefinition, antilog, mean_of, squares_about_mean, t_quantile

_ENOUGH_FOR_INTERVAL = 3


@dataclass(frozen=True)
class PooledLow:
    """A low over the frames of all kept passes together, in frames per second, with a 95 % interval."""

    value: float
    low: float | None
    high: float | None
    frames: int
    passes: int


def pooled_low(passes: Sequence[ArrayLike], share: float, definition: LowDefinition) -> PooledLow | None:
    """The low over the frames of all kept passes together.

    Parameters
    ----------
    passes : sequence of (n_j,) array_like
        The frame times of each kept pass that count, in ms.
    share : float
        0.01 for the 1 % low, 0.001 for the 0.1 % low.
    definition : {"percentile", "slowest_mean", "time_share"}

    Returns
    -------
    PooledLow or None
        None when even the pooled tail has fewer than ten frames. The interval is None for fewer than three passes.

    References
    ----------
    Tukey, J. W. (1958), Bias and confidence in not-quite large samples: the jackknife. Over passes and on the log, the
    pseudo-values are `n·L − (n − 1)·L_(−i)`; the interval is their standard error times Student's t about L.

    Examples
    --------
    >>> found = pooled_low([np.r_[np.full(990, 10.0), np.full(10, 20.0 + at)] for at in range(3)], 0.01, "slowest_mean")
    >>> round(found.value, 2), found.frames, found.low < found.value < found.high
    (47.62, 3000, True)
    """
    series = [np.asarray(f, dtype=np.float64) for f in passes]
    series = [f for f in series if len(f)]
    frames = sum(len(f) for f in series)
    if round(share * frames, 9) < TAIL_FRAMES:
        return None
    value = _low(series, share, definition)
    n = len(series)
    if n < _ENOUGH_FOR_INTERVAL:
        return PooledLow(value, None, None, frames, n)
    whole = math.log(value)
    without = [math.log(_low([*series[:at], *series[at + 1 :]], share, definition)) for at in range(n)]
    pseudo = [n * whole - (n - 1) * one for one in without]
    half = t_quantile(ALPHA, n - 1) * math.sqrt(squares_about_mean(pseudo) / (n - 1) / n)
    return PooledLow(value, antilog(whole - half), antilog(whole + half), frames, n)


def _low(series: Sequence[Floats], share: float, definition: LowDefinition) -> float:
    n = sum(len(f) for f in series)
    length = tail_length(n, share)
    # No definition looks further down than this.
    depth = length + 2
    tails = [np.partition(f, len(f) - depth)[-depth:] if len(f) > depth else f for f in series]
    longest = np.sort(np.concatenate(tails))[::-1][:depth]
    if definition == "slowest_mean":
        return 1000 / mean_of(longest[:length].tolist())
    if definition == "percentile":
        # Type 7, counted from the longest frame.
        at = share * (n - 1)
        above, below = math.floor(at), math.ceil(at)
        return 1000 / float(longest[below] + (below - at) * (longest[above] - longest[below]))
    total = math.fsum(float(f.sum()) for f in series)
    at_share = int(np.searchsorted(np.cumsum(longest), share * total * (1 - 1e-12), side="left"))
    return 1000 / float(longest[min(at_share, length - 1)])
