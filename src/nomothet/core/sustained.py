"""Section 11 of the method: what a run holds in the long term against its first burst, and why it drops."""

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from importlib import import_module
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nomothet.core.frames import Floats
from nomothet.core.notes import Note, note
from nomothet.core.per_second import Run

Cause = Literal["temperature", "power", "memory", "unknown"]

SHORTEST_S = 5
# A level so much under the burst is a drop; a clock so much under its burst level is held back.
LEAST_DROP = 0.03
HELD_BACK = 0.07
# A clock's fall begins where it leaves its burst level by more than its noise, and by this share at least.
_LEAST_FALL = 0.003
NEAR_C = 3.0
FLAT = 0.03
_MEMORY_FULL = 0.97
# Penalty of a change point in units of σ² log n.
_PENALTY = 3.0
_SQUARABLE = 1e100
# A longer run is looked at in steps of several seconds, so that the search stays quick.
_MOST_STEPS = 3600


@dataclass(frozen=True)
class Plateau:
    """A stretch of seconds [from_s, to_s) at one mean rate."""

    from_s: int
    to_s: int
    value: float


@dataclass(frozen=True)
class Sustained:
    """Burst against sustained.

    `drop_pct` is what is lost from burst to sustained (negative for a gain). `first_drop_s` is the start of the first
    level under the burst by 3 % or more, on the clock of the pass. Clocks are in MHz, where they were read.
    """

    by: str
    levels: tuple[Plateau, ...]
    burst: float
    sustained: float
    drop_pct: float
    first_drop_s: int | None
    cause: Cause | None
    evidence: Note | None
    burst_clock_mhz: float | None
    sustained_clock_mhz: float | None
    peak_c: float | None
    peak_at_s: int | None


@dataclass(frozen=True)
class Limits:
    """What the part and the settings declare, where they do."""

    temperature_c: float | None = None
    power_w: float | None = None


def change_points(values: Floats, shortest: int = SHORTEST_S) -> list[int]:
    """Positions at which the mean of a series changes, by penalised least squares.

    Parameters
    ----------
    values : (n,) array
        Finite values at even steps.
    shortest : int
        Fewest values between two changes.

    Returns
    -------
    list of int
        First positions of the second and later stretches.

    References
    ----------
    Killick, R., Fearnhead, P., and Eckley, I. A. (2012), Optimal detection of changepoints with a linear computational
    cost, JASA 107 (500). The noise is estimated from differences of neighbours, so that the changes do not count.

    Examples
    --------
    >>> change_points(np.repeat([100.0, 80.0], 30) + np.tile([0.1, -0.1], 30))
    [30]
    """
    n = len(values)
    if n < 2 * shortest:
        return []
    size = float(np.abs(values).max())
    if size > _SQUARABLE:
        # The changes are the same at any scale; squares of such numbers are not.
        values = values / size
    sigma = 1.4826 * float(np.median(np.abs(np.diff(values)))) / math.sqrt(2)
    floor = 1e-4 * max(1e-12, float(np.abs(values).mean()))
    penalty = _PENALTY * max(sigma, floor) ** 2 * math.log(n)
    # It brings all of statistics along, which takes longer to load than the rest of the server: see `read_ahead`.
    import ruptures

    search = ruptures.KernelCPD(kernel="linear", min_size=shortest, jump=1)
    found = search.fit(values.reshape(-1, 1)).predict(pen=penalty)
    return [int(at) for at in found[:-1]]


def read_ahead() -> None:
    """Load the library that `change_points` needs, at a time when nobody waits for it."""
    import_module("ruptures")


def sustained(
    run: Run, *, from_s: float = 0.0, to_s: float | None = None, declared: Limits | None = None
) -> Sustained | None:
    """Burst and sustained level of a run, its first drop and the cause.

    Parameters
    ----------
    run : Run
        The run by seconds; the frame rate is judged, else the clock.
    from_s, to_s : float
        The part that counts: after the warm-up (or the idle part of a soak), before the end cut (or the recovery).
    declared : Limits, optional
        Temperature and power limit of the part or the settings.

    Returns
    -------
    Sustained or None
        None when there is neither a rate nor a clock for at least ten seconds.
    """
    first = max(0, math.ceil(from_s - 1e-9))
    last = run.seconds if to_s is None else min(run.seconds, math.floor(to_s + 1e-9))
    clock = run.sensors.get("clock")
    by, series = ("frame rate", run.rate) if run.rate is not None else ("clock", clock)
    if series is None:
        return None
    known = np.flatnonzero(np.isfinite(series[first:last])) + first
    if len(known) < 2 * SHORTEST_S:
        return None
    first, last = int(known[0]), int(known[-1]) + 1
    values = np.interp(np.arange(first, last), known, series[known])
    if by == "frame rate" and not _is_whole(run, last) and len(values) > 2 * SHORTEST_S:
        values, last = values[:-1], last - 1
    levels = _levels(values, first)
    clocks = levels if by == "clock" else _levels_of(clock, first, last)
    late = last - (last - first) / 3
    weights = np.array([max(0.0, level.to_s - max(level.from_s, late)) for level in levels])
    held = float(weights @ [level.value for level in levels] / weights.sum())
    burst = levels[0].value
    drop = _first_drop(run, levels, clocks, declared or Limits(), (first, last))
    heat = run.sensors.get("temperature")
    peak = None if heat is None or not np.isfinite(heat[first:last]).any() else int(np.nanargmax(heat[first:last]))
    return Sustained(
        by=by,
        levels=tuple(levels),
        burst=burst,
        sustained=held,
        drop_pct=100 * (1 - held / burst) if burst else 0.0,
        first_drop_s=None if drop is None else drop[0],
        cause=None if drop is None else drop[1],
        evidence=None if drop is None else drop[2],
        burst_clock_mhz=clocks[0].value if clocks else None,
        sustained_clock_mhz=_median(clock, round(late), last),
        peak_c=None if heat is None or peak is None else float(heat[first + peak]),
        peak_at_s=None if peak is None else first + peak,
    )


def held_back(run: Run, burst_clock_mhz: float | None, declared: Limits) -> dict[Cause, NDArray[np.bool_]]:
    """Seconds in which the clock is 7 % or more under the burst level while the machine works, by cause.

    A package that draws its declared power limit (within 3 %, or more) is held by *power*, whatever its clock was.
    """
    n = run.seconds
    none = np.zeros(n, bool)
    clock = run.sensors.get("clock")
    power, heat = run.sensors.get("power"), run.sensors.get("temperature")
    least_w = None if not declared.power_w else (1 - FLAT) * declared.power_w
    at_limit = none if power is None or least_w is None else _is(power, lambda w: w >= least_w)
    if clock is None or not burst_clock_mhz:
        return {"temperature": none, "power": at_limit, "unknown": none}
    low = _is(clock, lambda c: c <= (1 - HELD_BACK) * burst_clock_mhz) & _at_work(run)
    hot = none if heat is None else _is(heat, lambda c: c >= _hot_from(heat, declared))
    # With a declared limit, power that is flat elsewhere says nothing.
    limited = at_limit if power is None or least_w is not None else _flat(power)
    by_heat = low & hot
    by_power = (low & ~hot & limited) | (at_limit & ~by_heat)
    return {"temperature": by_heat, "power": by_power, "unknown": low & ~by_heat & ~by_power}


def _is_whole(run: Run, last: int) -> bool:
    """Whether the second before `last` was recorded to its end: a frame ends on it, or after it."""
    return run.frames_until_s is None or run.frames_until_s >= last - 1e-9


def _levels(values: Floats, first: int) -> list[Plateau]:
    step = -(-len(values) // _MOST_STEPS)
    whole = len(values) // step * step
    changes = change_points(values[:whole].reshape(-1, step).mean(axis=1)) if step > 1 else change_points(values)
    edges = [0, *(step * change for change in changes), len(values)]
    return [Plateau(first + a, first + b, float(values[a:b].mean())) for a, b in itertools.pairwise(edges)]


def _levels_of(values: Floats | None, first: int, last: int) -> list[Plateau]:
    """Levels of a sensor over a window; none where it was read for less than ten seconds."""
    if values is None:
        return []
    known = np.flatnonzero(np.isfinite(values[first:last])) + first
    if len(known) < 2 * SHORTEST_S:
        return []
    return _levels(np.interp(np.arange(first, last), known, values[known]), first)


def _first_drop(
    run: Run, levels: list[Plateau], clocks: list[Plateau], declared: Limits, window: tuple[int, int]
) -> tuple[int, Cause, Note] | None:
    """The first drop that the sensors explain, of the clock or of the rate; else the first of the rate.

    A rate that falls while the clock and the memory stay may just show a heavier scene.
    """
    dropped = [level for level in levels[1:] if level.value < (1 - LEAST_DROP) * levels[0].value]
    clock = run.sensors.get("clock")
    burst = clocks[0].value if clocks else 0.0
    slower = [level for level in clocks[1:] if level.value < (1 - LEAST_DROP) * burst]
    # A rate that falls later than the clock has no cause of its own to tell of.
    otherwise = note("rate_fell", clock="fell" if slower else "stayed" if clocks else "not recorded")
    found: list[tuple[int, Cause, Note]] = []
    for level in dropped:
        full = _memory_full(run, level, levels[0])
        found.append((level.from_s, "memory" if full else "unknown", full or otherwise))
    if clock is not None:
        found += [
            (_onset(clock, clocks[0], level.from_s), *_clock_cause(run, level, burst, declared, window))
            for level in slower[:1]
        ]
    known = [one for one in found if one[1] != "unknown"]
    return min(known or found, key=lambda one: one[0], default=None)


def _memory_full(run: Run, dropped: Plateau, burst: Plateau) -> Note | None:
    """Whether memory ran out at a drop of the rate."""
    look = slice(dropped.from_s, min(dropped.to_s, dropped.from_s + 2 * SHORTEST_S))
    for name in ("graphics memory used", "memory used"):
        share = run.share_of(name)
        if share is None:
            continue
        after, before = _mean(share[look]), _mean(share[burst.from_s : burst.to_s])
        if after is not None and before is not None and after >= _MEMORY_FULL > before + 1e-9:
            return note("memory_filled", quantity=name, share=after)
    return None


def _clock_cause(
    run: Run, dropped: Plateau, burst_clock: float, declared: Limits, window: tuple[int, int]
) -> tuple[Cause, Note]:
    """Why the clock fell, by what the sensors show in the first seconds after it."""
    look = slice(dropped.from_s, min(dropped.to_s, dropped.from_s + 2 * SHORTEST_S))

    def fell(why: str, value: float | None = None, missing: Sequence[str] = ()) -> Note:
        return note("clock_fell", burst_mhz=burst_clock, mhz=dropped.value, why=why, value=value, missing=list(missing))

    if not _at_work(run)[look].any():
        return "unknown", fell("paused")
    heat, power = run.sensors.get("temperature"), run.sensors.get("power")
    if heat is not None:
        hottest = _highest(heat[look])
        if hottest is not None and hottest >= _hot_from(heat[window[0] : window[1]], declared):
            return "temperature", fell("hot", hottest)
    if power is not None:
        level = _mean(power[look])
        # Power at its declared limit need not be flat; without one, only a flat one tells.
        at_limit = declared.power_w is not None and level is not None and level >= (1 - FLAT) * declared.power_w
        if at_limit or (declared.power_w is None and _flat(power)[look].any()):
            return "power", fell("at its limit" if at_limit else "steady", level)
    missing = [name for name, lane in (("temperature", heat), ("power", power)) if lane is None]
    return "unknown", fell("not recorded" if missing else "unknown", None, missing)


def _onset(clock: Floats, burst: Plateau, near: int) -> int:
    """The first second, about the start of a lower level, from which the clock stays under its burst level."""
    own = clock[burst.from_s : burst.to_s]
    own = own[np.isfinite(own)]
    usual = float(np.median(own))
    noise = 1.4826 * float(np.median(np.abs(own - usual)))
    least = max(_LEAST_FALL * usual, 4 * noise)
    low = _is(clock, lambda c: c < usual - least)
    at = near
    if not low[at]:
        return next((later for later in range(at, min(at + 2 * SHORTEST_S, len(low))) if low[later]), near)
    while at > burst.from_s and low[at - 1]:
        at -= 1
    return at


def _hot_from(heat: Floats, declared: Limits) -> float:
    """From which temperature on the run is at its plateau or its limit."""
    there = heat[np.isfinite(heat)]
    plateau = float(np.quantile(there, 0.95)) if len(there) else math.inf
    if declared.temperature_c is not None:
        # A part with a declared limit is not held back by heat far under it.
        return declared.temperature_c - NEAR_C
    return plateau - NEAR_C


def _flat(power: Floats) -> NDArray[np.bool_]:
    """Seconds about which power stays within 3 % for five seconds."""
    out = np.zeros(len(power), bool)
    if len(power) < SHORTEST_S:
        return out
    windows = np.lib.stride_tricks.sliding_window_view(power, SHORTEST_S)
    with np.errstate(invalid="ignore"):
        steady = np.ptp(windows, axis=1) <= 2 * FLAT * windows.mean(axis=1)
    for at in np.flatnonzero(steady):
        out[at : at + SHORTEST_S] = True
    return out


def _at_work(run: Run) -> NDArray[np.bool_]:
    """Seconds in which the machine is busy; a clock that falls in a pause is not held back."""
    busy = np.zeros(run.seconds, bool)
    known = False
    for name in ("busiest core", "processor use", "graphics use"):
        values = run.sensors.get(name)
        if values is not None:
            known = True
            busy |= _is(values, lambda v: v >= 50)
    return busy if known else np.ones(run.seconds, bool)


def _is(values: Floats, test: Callable[[Floats], NDArray[np.bool_]]) -> NDArray[np.bool_]:
    """A test on the values that are there; a missing one never passes."""
    with np.errstate(invalid="ignore"):
        return np.isfinite(values) & test(values)


def _median(values: Floats | None, first: int, last: int) -> float | None:
    if values is None:
        return None
    there = values[first:last][np.isfinite(values[first:last])]
    return float(np.median(there)) if len(there) else None


def _mean(values: Floats) -> float | None:
    there = values[np.isfinite(values)]
    return float(there.mean()) if len(there) else None


def _highest(values: Floats) -> float | None:
    there = values[np.isfinite(values)]
    return float(there.max()) if len(there) else None
