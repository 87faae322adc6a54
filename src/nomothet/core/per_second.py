"""A run second by second: what sections 11 and 12 of the method look at.

Second k is the stretch [k, k + 1) on the clock of the pass; a frame belongs to the second in which it ends.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from nomothet.core.frames import Floats
from nomothet.core.hitches import hitch_positions
from nomothet.core.sensors import sensor_of
from nomothet.core.units import conversion, unit_named

# A reading stands for the time until the next one, but never for longer than this many usual steps.
_HELD_STEPS = 3.0
# Three days; what a longer recording holds beyond them is in its figures, and not looked at second by second.
MOST_SECONDS = 259_200


@dataclass(frozen=True)
class Lane:
    """What one sensor read: its quantity, when (s), the values, and the capacity where it has one."""

    quantity: str
    t_s: Floats
    values: Floats
    capacity: float | None = None
    # Whether a memory was read as a share of its size: that tells when it is full, not how much is used.
    relative: bool = False


@dataclass(frozen=True)
class Run:
    """A run by seconds.

    Parameters
    ----------
    rate : (n,) array or None
        Frames per second of each second, NaN where no frame was under way.
    hitch : (n,) array of bool
        Whether a hitch ended in that second.
    middle_ms, even : (n,) array
        Median frame time of each second, and the share of its frames within 4 % of it; NaN without frames.
    sensors : mapping of quantity to (n,) array
        Mean reading of each second, NaN where there is none.
    """

    seconds: int
    rate: Floats | None = None
    hitch: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(0, bool))
    middle_ms: Floats = field(default_factory=lambda: np.zeros(0))
    even: Floats = field(default_factory=lambda: np.zeros(0))
    sensors: Mapping[str, Floats] = field(default_factory=dict)
    capacities: Mapping[str, float] = field(default_factory=dict)
    # Memories that were read as a share of their size.
    relative: frozenset[str] = frozenset()
    # When the last frame ends; None without frames.
    frames_until_s: float | None = None

    def share_of(self, quantity: str) -> Floats | None:
        """A quantity as a share of its capacity; None where either is unknown."""
        values, capacity = self.sensors.get(quantity), self.capacities.get(quantity)
        return None if values is None or not capacity else values / capacity


def quantity_of(name: str, unit: str) -> str | None:
    """The quantity that a lane of this name and unit shows; None where it is none that is known.

    Examples
    --------
    >>> quantity_of("temperature package", "°C"), quantity_of("core 3", "%")
    ('temperature', None)
    """
    sensor = sensor_of(name, unit)
    return None if sensor is None else sensor.key


def lane_of(name: str, unit: str, t_s: Floats, values: Floats, capacity: float | None) -> Lane | None:
    """What a sensor of this name and unit read, in the unit of its quantity (GB, MHz, W, °C, %).

    Examples
    --------
    >>> lane_of("core clock", "GHz", np.arange(2.0), np.array([4.5, 4.6]), None).values.tolist()
    [4500.0, 4600.0]
    >>> lane_of("core 3", "%", np.arange(1.0), np.ones(1), 100.0) is None
    True
    """
    sensor = sensor_of(name, unit)
    if sensor is None:
        return None
    turned = conversion(unit_named(unit), sensor.unit)
    if turned is None:
        return Lane(sensor.key, t_s, values, 100.0, relative=True)
    own = values * turned.factor + turned.offset
    return Lane(sensor.key, t_s, own, None if capacity is None else turned.of(capacity))


def run_by_seconds(frame_times_ms: Floats | None, starts_at_s: float, lanes: Iterable[Lane], length_s: float) -> Run:
    """A run cut into seconds.

    Parameters
    ----------
    frame_times_ms : (n,) array or None
        The recorded frames, each finite and above 0.
    starts_at_s : float
        When the first frame begins on the clock of the pass.
    lanes : iterable of Lane
        Where several show one quantity (places of temperature), the one with the highest reading counts.
    length_s : float
        Length of the pass; frames and readings may make it longer.

    Examples
    --------
    >>> run_by_seconds(np.full(100, 20.0), 0.0, [], 2.0).rate.round(1).tolist()
    [50.0, 50.0]
    """
    read = list(lanes)
    ends = np.zeros(0)
    hitches = np.zeros(0, np.int64)
    if frame_times_ms is not None and len(frame_times_ms):
        running = np.cumsum(frame_times_ms)
        ends = starts_at_s + running / 1000
        hitches = hitch_positions(frame_times_ms, running)
    last = max([length_s, *ends[-1:], *(float(lane.t_s[-1]) for lane in read if len(lane.t_s))])
    seconds = min(MOST_SECONDS, max(1, math.ceil(round(min(last, MOST_SECONDS), 6))))
    chosen: dict[str, Lane] = {}
    for lane in read:
        best = chosen.get(lane.quantity)
        if best is None or _highest(lane.values) > _highest(best.values):
            chosen[lane.quantity] = lane
    sensors = {name: _by_seconds(lane.t_s, lane.values, seconds) for name, lane in chosen.items()}
    capacities = {name: lane.capacity for name, lane in chosen.items() if lane.capacity}
    relative = frozenset(name for name, lane in chosen.items() if lane.relative)
    if not len(ends) or frame_times_ms is None:
        nothing = np.full(seconds, np.nan)
        return Run(seconds, None, np.zeros(seconds, bool), nothing, nothing, sensors, capacities, relative)
    where = np.clip(np.ceil(np.minimum(ends, seconds) - 1e-9).astype(np.int64) - 1, 0, seconds - 1)
    hitch = np.zeros(seconds, bool)
    hitch[where[hitches]] = True
    rate = _rates(frame_times_ms, where, seconds, starts_at_s)
    return Run(
        seconds, rate, hitch, *_middles(frame_times_ms, where, seconds), sensors, capacities, relative, float(ends[-1])
    )


def _rates(f: Floats, where: NDArray[np.int64], seconds: int, starts_at_s: float) -> Floats:
    counted = np.bincount(where, minlength=seconds)
    spent = np.bincount(where, weights=f, minlength=seconds)
    rate = np.full(seconds, np.nan)
    np.divide(1000.0 * counted, spent, out=rate, where=spent > 0)
    # A second in which no frame ends lies within the frame that ends next.
    for at in np.flatnonzero(counted == 0)[::-1]:
        if int(starts_at_s) <= at < where[-1]:
            rate[at] = rate[at + 1]
    return rate


def _middles(f: Floats, where: NDArray[np.int64], seconds: int) -> tuple[Floats, Floats]:
    """The median frame of each second, and which share of its frames lie within 4 % of it; NaN where none ends."""
    middles, even = np.full(seconds, np.nan), np.full(seconds, np.nan)
    edges = np.searchsorted(where, np.arange(seconds + 1))
    counts = np.diff(edges)
    # Seconds of as many frames are rows of one array: some dozens of sorts in place of thousands of medians.
    for count in np.unique(counts[counts > 0]):
        alike = np.flatnonzero(counts == count)
        rows = f[edges[alike, None] + np.arange(count)]
        rows.sort(axis=1)
        middle = 0.5 * (rows[:, (count - 1) // 2] + rows[:, count // 2])
        off = np.abs(rows - middle[:, None])
        middles[alike] = middle
        even[alike] = np.count_nonzero(off <= 0.04 * middle[:, None], axis=1) / count
    return middles, even


def _by_seconds(t: Floats, values: Floats, seconds: int) -> Floats:
    there = np.isfinite(values) & (t >= 0)
    t, values = t[there], values[there]
    out = np.full(seconds, np.nan)
    if not len(t):
        return out
    t, values = t[t < seconds + 1], values[t < seconds + 1]
    if not len(t):
        return out
    where = np.minimum(t.astype(np.int64), seconds - 1)
    counted = np.bincount(where, minlength=seconds)
    np.divide(np.bincount(where, weights=values, minlength=seconds), counted, out=out, where=counted > 0)
    held = max(1, round(_HELD_STEPS * float(np.median(np.diff(t))))) if len(t) > 1 else 1
    known = np.flatnonzero(counted)
    before = known[np.clip(np.searchsorted(known, np.arange(seconds), side="right") - 1, 0, None)]
    age = np.arange(seconds) - before
    hold = (counted == 0) & (age > 0) & (age <= held)
    out[hold] = out[before[hold]]
    return out


def _highest(values: Floats) -> float:
    there = values[np.isfinite(values)]
    return float(there.max()) if len(there) else -math.inf
