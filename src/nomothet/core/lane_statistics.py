"""Sections 14 and 24 of the method: one figure of what a sensor read over the part of a run that counts."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.segments import Span

Statistic = Literal["mean", "peak", "p95", "end", "integral"]
STATISTICS: dict[Statistic, str] = {
    "mean": "mean",
    "peak": "peak",
    "p95": "95th percentile",
    "end": "at the end",
    "integral": "over the run",
}
# A reading holds before the first and after the last for this many usual steps, and wider gaps are not bridged.
_HELD_STEPS = 3.0
# Less of the window than this was covered: not recorded.
LEAST_COVERED = 0.95


def lane_statistic(t_s: Floats, values: Floats, windows: Sequence[Span], statistic: Statistic) -> float | None:
    """A statistic of a sensor over some windows of time; None where too little was recorded.

    Parameters
    ----------
    t_s, values : (n,) array
        When it was read, rising, and what; NaN is no reading.
    windows : sequence of Span
        What counts, without overlaps.

    Returns
    -------
    float or None
        In the sensor's unit; the integral in that unit times seconds.

    Examples
    --------
    >>> t, w = np.array([0.0, 1.0, 2.0]), np.array([10.0, 20.0, 10.0])
    >>> [lane_statistic(t, w, [Span(0.0, 2.0)], one) for one in ("mean", "peak", "end", "integral")]
    [15.0, 20.0, 10.0, 30.0]
    """
    there = np.isfinite(values) & np.isfinite(t_s)
    t, y = t_s[there], values[there]
    if not len(t) or not windows:
        return None
    parts = [integrate(t, y, window.start_s, window.end_s) for window in windows]
    whole = sum(window.end_s - window.start_s for window in windows)
    covered = sum(part[1] for part in parts)
    if whole <= 0 or covered < LEAST_COVERED * whole:
        return None
    mean = sum(part[0] for part in parts) / covered
    if statistic == "mean":
        return float(mean)
    if statistic == "integral":
        return float(mean * whole)
    inside = np.zeros(len(t), bool)
    for window in windows:
        inside |= (t >= window.start_s) & (t <= window.end_s)
    readings = y[inside]
    if not len(readings):
        return None
    if statistic == "peak":
        return float(readings.max())
    return float(np.percentile(readings, 95) if statistic == "p95" else readings[-1])


def integrate(t_s: Floats, values: Floats, from_s: float, to_s: float) -> tuple[float, float]:
    """The integral of readings over a window, and how many of its seconds they cover (section 14).

    Readings are joined by straight lines, hold before the first and after the last for three usual steps, and gaps of
    more than three usual steps are not bridged.

    >>> integrate(np.array([0.0, 1.0, 2.0]), np.array([10.0, 20.0, 10.0]), 0.0, 2.0)
    (30.0, 2.0)
    """
    if len(t_s) == 1:
        # A single reading tells nothing of its step; it holds for a second on either side.
        t, y = np.array([t_s[0] - 1.0, t_s[0] + 1.0]), np.repeat(values, 2)
        gaps = np.array([2.0])
        longest = 2.0
    else:
        step = float(np.median(np.diff(t_s)))
        longest = _HELD_STEPS * step
        t = np.concatenate([[t_s[0] - longest], t_s, [t_s[-1] + longest]])
        y = np.concatenate([[values[0]], values, [values[-1]]])
        gaps = np.diff(t)
    first, last = np.maximum(t[:-1], from_s), np.minimum(t[1:], to_s)
    counts = (gaps > 0) & (gaps <= longest * (1 + 1e-9)) & (last > first)
    slopes = np.divide(np.diff(y), gaps, out=np.zeros_like(gaps), where=gaps > 0)
    # A straight line's mean over a stretch is its value in the middle.
    middles = y[:-1] + slopes * ((first + last) / 2 - t[:-1])
    lengths = np.where(counts, last - first, 0.0)
    return float((middles * lengths).sum()), float(lengths.sum())
