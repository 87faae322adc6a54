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
    found = [
        chunk[_is_hitch(frame_times_ms, ends_ms, chunk)] for chunk in _batches(frame_times_ms, ends_ms, candidates)
    ]
    return np.concatenate(found) if found else np.empty(0, np.int64)


def _possible(f: Floats, ends: Floats) -> NDArray[np.int64]:
    """Positions that a lower bound of the local median does not rule out."""
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


def _batches(f: Floats, ends: Floats, candidates: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """Candidates in groups whose windows together fit in memory."""
    if not len(candidates):
        return []
    first, last = _windows(ends, candidates)
    width = int((last - first).max())
    per_batch = max(1, _BATCH // width)
    return [candidates[at : at + per_batch] for at in range(0, len(candidates), per_batch)]


def _windows(ends: Floats, positions: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    centre = ends[positions]
    first = np.searchsorted(ends, centre - HALF_WINDOW_MS, side="left")
    last = np.searchsorted(ends, centre + HALF_WINDOW_MS, side="right")
    return first, last


def _is_hitch(f: Floats, ends: Floats, positions: NDArray[np.int64]) -> NDArray[np.bool_]:
    first, last = _windows(ends, positions)
    counts = last - first
    offsets = np.arange(int(counts.max()))
    inside = offsets < counts[:, None]
    table = np.where(inside, f[np.minimum(first[:, None] + offsets, len(f) - 1)], np.inf)
    value = f[positions]
    # Only where half the window lies at or under half the frame can the median do so too.
    likely = np.flatnonzero(2 * np.count_nonzero(table <= value[:, None] / FACTOR, axis=1) >= counts)
    result = np.zeros(len(positions), bool)
    if len(likely):
        rows = np.sort(table[likely], axis=1)
        at = np.arange(len(likely))
        n = counts[likely]
        median = 0.5 * (rows[at, (n - 1) // 2] + rows[at, n // 2])
        result[likely] = (value[likely] >= FACTOR * median) & (value[likely] >= median + EXCESS_MS)
    return result
