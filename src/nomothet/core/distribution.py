"""The distribution of a pass's frame times: its percentile curve with an opened tail, and its histogram."""

import math
from dataclasses import dataclass

import numpy as np

from nomothet.core.frames import Floats

# Percentiles at even steps of -log10(1 - q): as much room for 99 to 99.9 % as for 0 to 90 %.
_STEPS_A_DECADE = 24


@dataclass(frozen=True)
class Curve:
    """`share_slower[i]` of the frames lasted longer than about `frame_ms[i]`; percentiles by section 1."""

    share_slower: list[float]
    frame_ms: list[float]


@dataclass(frozen=True)
class Histogram:
    """Counts of frames between `edges_ms[i]` and `edges_ms[i + 1]`; the last bin takes all that is slower."""

    edges_ms: list[float]
    counts: list[int]


def percentile_curve(frame_times_ms: Floats) -> Curve:
    """Frame-time percentiles on a scale that opens the tail, down to a share of one frame.

    Parameters
    ----------
    frame_times_ms : (n,) array
        The frames that count, each finite and above 0.

    Examples
    --------
    >>> curve = percentile_curve(np.arange(1.0, 1001.0))
    >>> curve.share_slower[0], round(curve.frame_ms[0], 2)
    (1.0, 1.0)
    >>> round(dict(zip(np.round(curve.share_slower, 6).tolist(), curve.frame_ms))[0.01], 2)
    990.01
    """
    n = len(frame_times_ms)
    decades = max(1.0, math.log10(n))
    steps = np.arange(0, math.floor(decades * _STEPS_A_DECADE) + 1)
    shares = 10.0 ** (-steps / _STEPS_A_DECADE)
    values = np.quantile(frame_times_ms, 1 - shares)
    return Curve(shares.tolist(), values.tolist())


def histogram(frame_times_ms: Floats, bins: int = 60, top_ms: float | None = None) -> Histogram:
    """Counts by frame time, in even bins from 0 to a top that holds 99.5 % of the frames.

    Examples
    --------
    >>> histogram(np.array([1.0, 1.0, 3.0, 50.0]), bins=2, top_ms=4.0)
    Histogram(edges_ms=[0.0, 2.0, 4.0], counts=[2, 2])
    """
    top = float(np.quantile(frame_times_ms, 0.995)) * 1.15 if top_ms is None else top_ms
    edges = np.linspace(0, top, bins + 1)
    where = np.clip(np.searchsorted(edges, frame_times_ms, side="right") - 1, 0, bins - 1)
    return Histogram(edges.tolist(), np.bincount(where, minlength=bins).tolist())
