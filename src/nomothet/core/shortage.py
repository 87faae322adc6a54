"""Sections 12 and 17 of the method: memory that runs out, when, and what it costs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nomothet.core.frames import Floats
from nomothet.core.per_second import Run

GRAPHICS_FULL = 0.97
MAIN_FULL = 0.95
FAULTS_PER_S = 100.0
_IDLE_GRAPHICS_PCT = 60.0
# Frames so much slower than before the memory was full are its doing.
_SLOWER = 0.85
_SETTLED_S = 3


@dataclass(frozen=True)
class Collapse:
    """Memory ran out: at `at_s`, with `used` of `capacity`, in GB or, of a size that is not known, in %.

    `cost_pct` is what the frame rate lost from before to after; None where the run did not have three seconds before.
    """

    quantity: str
    at_s: int
    used: float
    capacity: float
    rate_before: float | None
    rate_after: float | None
    cost_pct: float | None
    unit: str = "GB"


def full_seconds(run: Run, quantity: str, share: float) -> NDArray[np.bool_]:
    """Seconds in which a memory is used to at least a share of its capacity."""
    used = run.share_of(quantity)
    if used is None:
        return np.zeros(run.seconds, bool)
    with np.errstate(invalid="ignore"):
        return np.asarray(used >= share, bool)


def graphics_short(run: Run) -> NDArray[np.bool_]:
    """Seconds in which graphics memory is full, and the graphics idle, a hitch, or slow frames show that it matters."""
    full = full_seconds(run, "graphics memory used", GRAPHICS_FULL)
    if not full.any():
        return full
    graphics = run.sensors.get("graphics use")
    shows = run.hitch.copy() if len(run.hitch) else np.zeros(run.seconds, bool)
    with np.errstate(invalid="ignore"):
        if graphics is not None:
            shows |= graphics < _IDLE_GRAPHICS_PCT
        before = _rate_before(run, full)
        if before is not None and run.rate is not None:
            shows |= run.rate <= _SLOWER * before
    return full & shows


def main_short(run: Run) -> NDArray[np.bool_]:
    """Seconds in which main memory is full while swap grows or major faults come at 100 a second or more."""
    full = full_seconds(run, "memory used", MAIN_FULL)
    if not full.any():
        return full
    pages = np.zeros(run.seconds, bool)
    swap, faults = run.sensors.get("swap used"), run.sensors.get("major page faults")
    with np.errstate(invalid="ignore"):
        if swap is not None:
            pages[1:] |= np.diff(swap) > 0.005
        if faults is not None:
            pages |= faults >= FAULTS_PER_S
    return full & pages


def collapse_of(run: Run) -> Collapse | None:
    """The moment at which graphics or main memory ran out and it mattered; the first of both. None where neither did.

    The cost compares the frame rate's median before the memory was full with that after.
    """
    found = []
    for quantity, share, short in (
        ("graphics memory used", GRAPHICS_FULL, graphics_short(run)),
        ("memory used", MAIN_FULL, main_short(run)),
    ):
        if np.count_nonzero(short) >= _SETTLED_S:
            found.append(_collapse(run, quantity, full_seconds(run, quantity, share)))
    return min(found, key=lambda one: one.at_s, default=None)


def headroom_pct(peak: float, capacity: float) -> float:
    """What was left at the peak, in % of the capacity.

    >>> headroom_pct(6.0, 8.0)
    25.0
    """
    return 100 * (1 - peak / capacity)


def _collapse(run: Run, quantity: str, full: NDArray[np.bool_]) -> Collapse:
    at = int(np.argmax(full))
    used = float(np.nanmax(run.sensors[quantity]))
    before = _rate_before(run, full)
    after = None
    if run.rate is not None:
        there = run.rate[full & np.isfinite(run.rate)]
        after = float(np.median(there)) if len(there) else None
    cost = None if before is None or after is None else 100 * (1 - after / before)
    unit = "%" if quantity in run.relative else "GB"
    return Collapse(quantity, at, used, run.capacities[quantity], before, after, cost, unit)


def _rate_before(run: Run, full: NDArray[np.bool_]) -> float | None:
    """The frame rate before the memory was first full; None without three seconds of it."""
    if run.rate is None:
        return None
    before: Floats = run.rate[: int(np.argmax(full))]
    there = before[np.isfinite(before)]
    return float(np.median(there)) if len(there) >= _SETTLED_S else None
