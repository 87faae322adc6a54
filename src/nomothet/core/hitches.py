"""Hitches of a frame series (method 1): frames far above what surrounds them.

A frame is a hitch when it lasts at least twice the median of the frames that end within half a second of its own end,
and at least 4 ms longer than that median. Medians are costly and hitches are rare, so medians are computed only for
frames that pass two cheap tests which no hitch can fail.
"""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

HALF_WINDOW_MS = 500.0
FACTOR = 2.0
EXCESS_MS = 4.0

_BLOCK_MS = 250.0
# A window of ±500 ms around a frame of block b covers blocks b-1 … b+1 wholly and lies within b-2 … b+2.
_COVERED, _TOUCHED = 1, 2
_BATCH = 4_000_000
# With more frames than this in all windows together, counting comes before looking at each window.
_MANY = 3_000_000
# Counting is by groups of frames in order, and by levels of their times, 16 to a doubling.
_GROUP = 16
_LEVELS = 48
_LEVEL_BITS = 48
# An excess is looked at from this much further below: beyond what a sum of two numbers under 8 ms is rounded by.
_ROUNDED_MS = 1e-9


def hitch_positions(frame_times_ms: Floats, ends_ms: Floats) -> NDArray[np.int64]:
    """Positions of the hitches.

    Parameters
    ----------
    frame_times_ms : (n,) array
        Frame times, each finite and above 0.
    ends_ms : (n,) array
        Their running sum.

    Returns
    -------
    (k,) array of int
        0-based positions, rising.

    Examples
    --------
    >>> f = np.full(200, 10.0); f[120] = 30.0
    >>> hitch_positions(f, np.cumsum(f)).tolist()
    [120]
    """
    candidates = _possible(frame_times_ms, ends_ms)
    if not len(candidates):
        return candidates
    first, last = _windows(ends_ms, candidates)
    sure = np.empty(0, np.int64)
    if int((last - first).sum()) > _MANY:
        verdicts = _counted(frame_times_ms, candidates, first, last)
        sure = candidates[verdicts > 0]
        open_ = np.flatnonzero(verdicts == 0)
        candidates, first, last = candidates[open_], first[open_], last[open_]
    found = [sure]
    for part in _batches(last - first):
        found.append(candidates[part][_is_hitch(frame_times_ms, candidates[part], first[part], last[part])])
    return np.sort(np.concatenate(found))


def _possible(f: Floats, ends: Floats) -> NDArray[np.int64]:
    """Positions that a lower bound of the local median does not rule out."""
    if ends[-1] < _BLOCK_MS or ends[-1] / _BLOCK_MS > 4 * len(f) + 1:
        # All within one block of time, or frames so long that blocks would outnumber them: nothing is gained by blocks.
        return np.flatnonzero(f >= np.maximum(FACTOR * f.min(), f.min() + EXCESS_MS))
    edges = np.arange(0.0, ends[-1] + _BLOCK_MS, _BLOCK_MS)
    starts = np.searchsorted(ends, edges, side="right")
    lengths = np.diff(np.append(starts[:-1], len(f)))
    blocks = len(lengths)
    longest = int(lengths.max())
    bound = np.full(blocks, f.min()) if blocks * longest > 8 * len(f) else _median_bounds(f, lengths, longest)
    limit = np.repeat(np.maximum(FACTOR * bound, bound + EXCESS_MS), lengths)
    return np.flatnonzero(f >= limit)


def _median_bounds(f: Floats, lengths: NDArray[np.int64], longest: int) -> Floats:
    """For each block, a value that no median of a window around one of its frames lies under.

    The median of a window with at least n frames is no smaller than the k-th smallest of any set that contains the
    window, k = (n + 1) // 2; and of the k smallest of a union of five blocks, one block holds at least k / 5.
    """
    blocks = len(lengths)
    table = np.full((blocks, longest), np.inf)
    table[np.arange(longest) < lengths[:, None]] = f
    table.sort(axis=1)
    padded = np.concatenate([np.zeros(_COVERED, np.int64), lengths, np.zeros(_COVERED, np.int64)])
    covered = sum(padded[s : s + blocks] for s in range(2 * _COVERED + 1))
    share = -(-((covered + 1) // 2) // (2 * _TOUCHED + 1))
    column = np.clip(share - 1, 0, longest - 1)
    bound = np.full(blocks, np.inf)
    for shift in range(-_TOUCHED, _TOUCHED + 1):
        low, high = max(0, -shift), min(blocks, blocks - shift)
        rows = np.arange(low, high)
        bound[rows] = np.minimum(bound[rows], table[rows + shift, column[rows]])
    return bound


def _counted(
    f: Floats, candidates: NDArray[np.int64], first: NDArray[np.int64], last: NDArray[np.int64]
) -> NDArray[np.int8]:
    """What counting can say of candidates: 1 a hitch, -1 none, 0 still open.

    A median lies at or under a threshold when more than half of its window does, and above it when less than half
    does. How many frames of a window lie in lower levels than the threshold's, and how many in its own as well, bounds
    that share from both sides.
    """
    value = f[candidates]
    half = value / FACTOR
    # From 2 · 4 ms on, twice the median is also 4 ms above it.
    most = np.where(half >= EXCESS_MS, half, np.maximum(value - EXCESS_MS - _ROUNDED_MS, 0.0))
    lowest = int(half.min().view(np.int64) >> _LEVEL_BITS) - 1
    levels = _levels(f, lowest)
    under, own = _levels(most, lowest), _levels(half, lowest)
    counts = _counts_by_group(levels)
    size = last - first
    # Groups that lie in the window as a whole, and what of it is left at its ends.
    left = -(-first // _GROUP)
    right = np.maximum(left, last // _GROUP)
    sure = counts[under, right] - counts[under, left]
    at_most = counts[own + 1, right] - counts[own + 1, left]
    ends = size - _GROUP * (right - left)
    verdicts = np.zeros(len(candidates), np.int8)
    verdicts[2 * sure > size] = 1
    verdicts[2 * (at_most + ends) < size] = -1
    open_ = np.flatnonzero(verdicts == 0)
    sure, at_most, under, own, size = sure[open_], at_most[open_], under[open_], own[open_], size[open_]
    begin_end = np.minimum(_GROUP * left[open_], last[open_])
    end = np.maximum(_GROUP * right[open_], begin_end)
    for start, stop in ((first[open_], begin_end), (end, last[open_])):
        left_over = (stop - start).astype(np.int8)
        at = start.astype(np.int32)
        for step in range(_GROUP):
            seen = levels[np.minimum(at + np.int32(step), np.int32(len(f) - 1))]
            within = left_over > step
            sure += within & (seen < under)
            at_most += within & (seen <= own)
    verdicts[open_[2 * sure > size]] = 1
    verdicts[open_[2 * at_most < size]] = -1
    return verdicts


def _levels(times_ms: Floats, lowest: int) -> NDArray[np.uint8]:
    """Levels that rise with times, from 0 to `_LEVELS` - 1: the exponent of a number with the first bits after it."""
    above = (times_ms.view(np.int64) >> _LEVEL_BITS) - lowest
    levels: NDArray[np.uint8] = np.minimum(np.maximum(above, 0), _LEVELS - 1).astype(np.uint8)
    return levels


def _counts_by_group(levels: NDArray[np.uint8]) -> NDArray[np.int32]:
    """How many frames of all groups before one lie in lower levels than one; (levels + 1, groups + 1)."""
    groups = -(-len(levels) // _GROUP)
    cells = np.bincount(levels * np.int64(groups) + np.arange(len(levels)) // _GROUP, minlength=_LEVELS * groups)
    counts = np.zeros((_LEVELS + 1, groups + 1), np.int32)
    for level, own in enumerate(cells.reshape(_LEVELS, groups)):
        np.cumsum(own, out=counts[level + 1, 1:])
        counts[level + 1] += counts[level]
    return counts


def _batches(sizes: NDArray[np.int64]) -> list[slice]:
    """Stretches of candidates whose windows together fit in memory."""
    if not len(sizes):
        return []
    per_batch = max(1, _BATCH // int(sizes.max()))
    return [slice(at, at + per_batch) for at in range(0, len(sizes), per_batch)]


def _windows(ends: Floats, positions: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    centre = ends[positions]
    first = np.searchsorted(ends, centre - HALF_WINDOW_MS, side="left")
    last = np.searchsorted(ends, centre + HALF_WINDOW_MS, side="right")
    return first, last


def _is_hitch(
    f: Floats, positions: NDArray[np.int64], first: NDArray[np.int64], last: NDArray[np.int64]
) -> NDArray[np.bool_]:
    """The definition itself."""
    counts = last - first
    offsets = np.arange(int(counts.max()))
    inside = offsets < counts[:, None]
    table = np.where(inside, f[np.minimum(first[:, None] + offsets, len(f) - 1)], np.inf)
    value = f[positions]
    lower = np.count_nonzero(table <= value[:, None] / FACTOR, axis=1)
    # Twice the median is at most the frame where more than half of the window lies at or under half the frame. Exactly
    # half leaves it to the two in the middle, and a short frame to its excess.
    result: NDArray[np.bool_] = (2 * lower > counts) & (value >= FACTOR * EXCESS_MS)
    likely = np.flatnonzero((2 * lower >= counts) & ~result)
    if len(likely):
        rows = np.sort(table[likely], axis=1)
        at = np.arange(len(likely))
        n = counts[likely]
        median = 0.5 * (rows[at, (n - 1) // 2] + rows[at, n // 2])
        result[likely] = (value[likely] >= FACTOR * median) & (value[likely] >= median + EXCESS_MS)
    return result
