"""Section 1 of the method: the figures of a frame series."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from nomothet.core.errors import BadFrames
from nomothet.core.hitches import hitch_positions

Floats = NDArray[np.float64]

COMMON_CAPS_FPS = (
    24, 25, 30, 36, 40, 45, 48, 50, 60, 72, 75, 80, 90, 100, 120, 144, 165, 175, 180, 200, 240, 300, 360, 480, 500,
)  # fmt: skip
GAP_MS = 10_000.0
TAIL_FRAMES = 10
TARGET_TOLERANCE = 1.005
# Sums of frame times carry rounding; a frame that ends on a second's edge within this much ends on it.
_EDGE_MS = 1e-6


@dataclass(frozen=True)
class Low:
    """One low (the 1 % or the 0.1 % low) by its three definitions, in frames per second.

    `thin` marks a tail of under ten frames: such a low takes part in no verdict.
    """

    percentile: float
    slowest_mean: float
    time_share: float
    thin: bool


@dataclass(frozen=True)
class FrameFigures:
    """All figures of section 1 for one frame series. Shares are fractions, rates are frames per second."""

    frames: int
    duration_s: float
    average_fps: float
    p50_ms: float
    p95_ms: float
    p99_ms: float
    p999_ms: float
    low_1pct: Low
    low_01pct: Low
    lowest_second_fps: int | None
    hitches: int
    hitch_rate_per_min: float
    hitch_time_share: float
    pacing_unevenness_pct: float
    under_target_share: float | None
    held_fps: float | None
    capture_gaps: int


def checked_frame_times(frame_times_ms: ArrayLike) -> Floats:
    """Frame times as an array of float64, or a refusal that names the offending positions.

    Parameters
    ----------
    frame_times_ms : (n,) array_like
        Frame times in ms.

    Raises
    ------
    BadFrames
        When there is no frame, or one is not finite or not above 0.

    Examples
    --------
    >>> checked_frame_times([16.7, -1.0])
    Traceback (most recent call last):
    nomothet.core.errors.BadFrames: frame 2 is -1.0; a frame time must be a finite number above 0
    """
    f = np.ascontiguousarray(frame_times_ms, dtype=np.float64)
    if f.ndim != 1 or not len(f):
        raise BadFrames("there is no frame in the series")
    # A comparison with NaN is false, so one test finds all that is not finite and above 0.
    if not (f.min() > 0 and f.max() < math.inf):
        bad = np.flatnonzero(~((f > 0) & np.isfinite(f)))[:10].tolist()
        raise BadFrames(f"frame {bad[0] + 1} is {f[bad[0]]}; a frame time must be a finite number above 0", bad)
    return f


def frame_times_of(timestamps: ArrayLike, unit_ms: float) -> Floats:
    """Frame times in ms from timestamps.

    Parameters
    ----------
    timestamps : (n + 1,) array_like
        Rising timestamps.
    unit_ms : float
        Length of the timestamps' unit in ms (1000 for s, 0.001 for µs).

    Returns
    -------
    (n,) array
        The differences of neighbours in ms, rounded to the nanosecond: what a large timestamp cannot hold is no time.

    Raises
    ------
    BadFrames
        When there are fewer than two timestamps, or one does not come after the one before it.

    Examples
    --------
    >>> frame_times_of([1.0, 1.02, 1.05], 1000.0).round(6).tolist()
    [20.0, 30.0]
    """
    stamps = np.ascontiguousarray(timestamps, dtype=np.float64)
    if len(stamps) < 2:
        raise BadFrames("two timestamps at least are needed to make a frame")
    steps = np.diff(stamps)
    if np.isfinite(steps).all():
        steps = np.round(steps * unit_ms, 6)
    if not (steps.min() > 0 and steps.max() < math.inf):
        bad = (np.flatnonzero(~((steps > 0) & np.isfinite(steps)))[:10] + 1).tolist()
        raise BadFrames(f"timestamp {bad[0] + 1} does not come after the one before it", bad)
    return steps


def cut(frame_times_ms: Floats, skip_s: float = 0.0, end_cut_s: float = 0.0) -> Floats:
    """The frames that count: those that end after the warm-up and before the end cut.

    Raises
    ------
    BadFrames
        When nothing is left.

    Examples
    --------
    >>> len(cut(np.full(300, 10.0), skip_s=1.0, end_cut_s=0.5))
    150
    """
    first, last = cut_positions(frame_times_ms, skip_s, end_cut_s)
    return frame_times_ms[first:last]


def cut_positions(frame_times_ms: Floats, skip_s: float, end_cut_s: float) -> tuple[int, int]:
    """The first frame that counts, and the first one after it that no longer does.

    Raises
    ------
    BadFrames
        When nothing is left.
    """
    if skip_s <= 0 and end_cut_s <= 0:
        return 0, len(frame_times_ms)
    ends = np.cumsum(frame_times_ms)
    first = np.searchsorted(ends, skip_s * 1000 + _EDGE_MS, side="right")
    last = np.searchsorted(ends, ends[-1] - end_cut_s * 1000 + _EDGE_MS, side="right")
    if last <= first:
        raise BadFrames(
            f"the cuts of {skip_s:g} s and {end_cut_s:g} s leave no frame of the {ends[-1] / 1000:.3g} s recorded"
        )
    return int(first), int(last)


def frame_figures(
    frame_times_ms: ArrayLike,
    *,
    target_fps: float | None = None,
    declared_cap_fps: float | None = None,
    median_graphics_use: float | None = None,
) -> FrameFigures:
    """All figures of section 1 of the method.

    Parameters
    ----------
    frame_times_ms : (n,) array_like
        Frame times in ms, each finite and above 0.
    target_fps : float, optional
        Rate for the time under the target.
    declared_cap_fps : float, optional
        The cap that the settings declare; it counts beside the common caps.
    median_graphics_use : float, optional
        Median graphics utilisation in %, where it was recorded.

    Raises
    ------
    BadFrames
        When a frame time is not finite or not above 0.

    References
    ----------
    Hyndman, R. J., and Fan, Y. (1996), Sample quantiles in statistical packages, The American Statistician 50 (4):
    percentiles are of type 7.

    Examples
    --------
    >>> figures = frame_figures([10.0] * 990 + [50.0] * 10)
    >>> round(figures.average_fps, 3), round(figures.p99_ms, 1), figures.low_1pct.slowest_mean
    (96.154, 10.4, 20.0)
    """
    return figures_of_pieces(
        [checked_frame_times(frame_times_ms)],
        target_fps=target_fps,
        declared_cap_fps=declared_cap_fps,
        median_graphics_use=median_graphics_use,
    )


def figures_of_pieces(
    pieces: Sequence[Floats],
    *,
    target_fps: float | None = None,
    declared_cap_fps: float | None = None,
    median_graphics_use: float | None = None,
) -> FrameFigures:
    """The figures of section 1 over several stretches of one run, as where a part of it is set aside.

    Shares, averages and percentiles are of all frames together; hitches, whole seconds and steps from frame to frame
    are looked for within each stretch, never across a gap.

    Parameters
    ----------
    pieces : sequence of (n_j,) array
        Frame times in ms, checked, at least one frame in each.

    Examples
    --------
    >>> figures = figures_of_pieces([np.full(100, 10.0), np.full(50, 20.0)])
    >>> figures.average_fps, figures.pacing_unevenness_pct, figures.lowest_second_fps
    (75.0, 0.0, 50)
    """
    f = pieces[0] if len(pieces) == 1 else np.concatenate(pieces)
    n = len(f)
    with np.errstate(over="ignore"):
        ends = [np.cumsum(piece) for piece in pieces]
    total = float(sum(one[-1] for one in ends))
    if not total < math.inf:
        raise BadFrames("the frame times add up to more than can be computed; check their unit")
    ordered = np.sort(f)
    p50, p95, p99, p999 = (_percentile(ordered, q) for q in (0.50, 0.95, 0.99, 0.999))
    hitches = [piece[hitch_positions(piece, own)] for piece, own in zip(pieces, ends, strict=True)]
    count = sum(len(found) for found in hitches)
    seconds = [found for own in ends if (found := _lowest_second(own)) is not None]
    return FrameFigures(
        frames=n,
        duration_s=total / 1000,
        average_fps=1000 * n / total,
        p50_ms=p50,
        p95_ms=p95,
        p99_ms=p99,
        p999_ms=p999,
        low_1pct=_low(ordered, total, 0.01, p99),
        low_01pct=_low(ordered, total, 0.001, p999),
        lowest_second_fps=min(seconds, default=None),
        hitches=count,
        hitch_rate_per_min=count * 60_000 / total,
        hitch_time_share=float(sum(found.sum() for found in hitches)) / total,
        pacing_unevenness_pct=_unevenness(pieces, n, total),
        under_target_share=None if target_fps is None else _under_target(ordered, total, target_fps),
        held_fps=_held_rate(ordered, p50, declared_cap_fps, median_graphics_use),
        capture_gaps=n - int(np.searchsorted(ordered, GAP_MS, side="right")),
    )


def tail_length(n: int, share: float) -> int:
    """Number of frames in the slowest `share` of n frames.

    >>> tail_length(1000, 0.01), tail_length(1001, 0.01)
    (10, 11)
    """
    # Rounding first keeps 0.01 · 1000 from becoming 11 by a bit in the last place.
    return math.ceil(round(share * n, 9))


def is_thin(n: int, share: float) -> bool:
    """Whether a low over n frames has fewer than ten frames in its tail."""
    return round(share * n, 9) < TAIL_FRAMES


def _percentile(ordered: Floats, q: float) -> float:
    at = q * (len(ordered) - 1)
    below = math.floor(at)
    above = min(below + 1, len(ordered) - 1)
    return float(ordered[below] + (at - below) * (ordered[above] - ordered[below]))


def _low(ordered: Floats, total: float, share: float, percentile_ms: float) -> Low:
    n = len(ordered)
    slowest = ordered[n - tail_length(n, share) :]
    # The longest frames that fill a share of the time are never more than that share of the frames.
    reached = np.cumsum(slowest[::-1])
    at = int(np.searchsorted(reached, share * total * (1 - 1e-12), side="left"))
    return Low(
        percentile=1000 / percentile_ms,
        slowest_mean=1000 / float(slowest.mean()),
        time_share=1000 / float(slowest[::-1][min(at, len(slowest) - 1)]),
        thin=is_thin(n, share),
    )


def _lowest_second(ends: Floats) -> int | None:
    seconds = math.floor((ends[-1] + _EDGE_MS) / 1000)
    if seconds < 1:
        return None
    if seconds > len(ends):
        # More seconds than frames: some second has none.
        return 0
    edges = np.searchsorted(ends, np.arange(seconds + 1) * 1000.0 + _EDGE_MS, side="right")
    return int(np.diff(edges).min())


def _unevenness(pieces: Sequence[Floats], n: int, total: float) -> float:
    steps = n - len(pieces)
    if steps < 1:
        return 0.0
    size = sum(float(np.abs(np.diff(piece)).sum()) for piece in pieces)
    return 100 * size / steps * n / total


def _under_target(ordered: Floats, total: float, target_fps: float) -> float:
    at = int(np.searchsorted(ordered, 1000 / target_fps * TARGET_TOLERANCE, side="right"))
    return float(ordered[at:].sum()) / total


def _held_rate(ordered: Floats, median: float, declared: float | None, graphics_use: float | None) -> float | None:
    if graphics_use is not None and graphics_use >= 95:
        return None
    low, high = np.searchsorted(ordered, [median * 0.96, median * 1.04])
    if high - low < 0.8 * len(ordered):
        return None
    rate = 1000 / median
    caps = [*([declared] if declared else []), *COMMON_CAPS_FPS]
    return next((float(cap) for cap in caps if abs(rate / cap - 1) <= 0.01), None)
