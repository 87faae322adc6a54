"""Everything that sections 11, 12 and 17 find in one pass, over the part of it that counts."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import groupby

import numpy as np

from nomothet.core.economy import POWER_SOURCES, Energy, energy_of_windows
from nomothet.core.enough import Use, use_of
from nomothet.core.frames import Floats
from nomothet.core.limits import LimitReport, limits_of
from nomothet.core.passes import SETTLED_C_PER_MIN, rise_at_end
from nomothet.core.per_second import Lane, Run, run_by_seconds
from nomothet.core.segments import Span, seconds_that_count, without_spans
from nomothet.core.shortage import Collapse, collapse_of
from nomothet.core.sustained import Limits, Sustained, sustained

_MEMORIES = ("memory used", "graphics memory used", "swap used", "storage used")


@dataclass(frozen=True)
class Band:
    """Seconds [from_s, to_s) that one kind limits; "" where they are set aside."""

    kind: str
    from_s: int
    to_s: int


@dataclass(frozen=True)
class Reading:
    """What a sensor showed over the part that counts: its peak with the second at which it came, median and mean."""

    peak: float
    peak_at_s: int
    median: float
    mean: float


@dataclass(frozen=True)
class Declared:
    """What part and settings declare about a pass, where they do."""

    temperature_c: float | None = None
    power_w: float | None = None
    cap_fps: float | None = None


@dataclass(frozen=True)
class PassAnalysis:
    """What held a pass back, what it held in the long term, and what it used."""

    from_s: int
    to_s: int
    limits: LimitReport | None
    bands: tuple[Band, ...]
    sustained: Sustained | None
    collapse: Collapse | None
    uses: dict[str, Use] = field(default_factory=dict)
    readings: dict[str, Reading] = field(default_factory=dict)
    # By source, what it drew over the part that counts; sources that were recorded too little are not there.
    power: dict[str, Energy] = field(default_factory=dict)
    # How fast the temperature still rises at the end, in °C per minute; `too_short` where that is over 1.
    rise_c_per_min: float | None = None
    too_short: bool = False
    declared: Declared = field(default_factory=Declared)


def analyse_pass(
    frame_times_ms: Floats | None,
    lanes: Iterable[Lane],
    *,
    starts_at_s: float = 0.0,
    length_s: float = 0.0,
    from_s: float = 0.0,
    to_s: float | None = None,
    aside: Sequence[Span] = (),
    held_fps: float | None = None,
    declared: Declared | None = None,
    wants_settling: bool = False,
    one_work: bool = True,
) -> PassAnalysis:
    """Look at a pass second by second.

    Parameters
    ----------
    frame_times_ms : (n,) array or None
        All recorded frames.
    from_s, to_s : float
        The part that counts, on the clock of the pass: after the warm-up, before the end cut.
    aside : sequence of Span
        Ranges set aside; they take part in no share.
    held_fps : float, optional
        The held rate of section 1.
    wants_settling : bool
        Whether the run is a stress or timing run, which is too short when it ends before the temperature has settled.
    one_work : bool
        Whether the run does one kind of work from start to end; otherwise a change of pace is no drop.
    """
    read = list(lanes)
    run = run_by_seconds(frame_times_ms, starts_at_s, read, length_s)
    said = declared or Declared()
    limits = Limits(said.temperature_c, said.power_w)
    first = int(from_s)
    last = run.seconds if to_s is None else min(run.seconds, max(first + 1, int(np.ceil(to_s - 1e-9))))
    kept = seconds_that_count(run.seconds, first, last, aside)
    trend = sustained(run, from_s=first, to_s=last, declared=limits)
    report = None
    if read or frame_times_ms is not None:
        report = limits_of(
            run,
            from_s=first,
            to_s=last,
            held_fps=held_fps,
            declared_cap_fps=said.cap_fps,
            burst_clock_mhz=trend.burst_clock_mhz if trend else None,
            declared=limits,
            kept=kept,
        )
    rise = _rise(read, first, last) if wants_settling else None
    return PassAnalysis(
        from_s=first,
        to_s=last,
        limits=report,
        bands=_bands(report) if report else (),
        sustained=trend if one_work else None,
        collapse=collapse_of(run),
        uses=_uses(run, kept),
        readings=_readings(run, kept),
        power=_power(read, from_s, _end(run, to_s), aside),
        rise_c_per_min=rise,
        too_short=rise is not None and rise > SETTLED_C_PER_MIN,
        declared=said,
    )


def _bands(report: LimitReport) -> tuple[Band, ...]:
    bands = []
    at = report.from_s
    for kind, group in groupby(report.seconds):
        length = sum(1 for _ in group)
        bands.append(Band(kind, at, at + length))
        at += length
    return tuple(bands)


def _uses(run: Run, kept: np.ndarray) -> dict[str, Use]:
    uses = {}
    for name in _MEMORIES:
        values = run.sensors.get(name)
        if values is not None and name not in run.relative and np.isfinite(values[kept]).any():
            uses[name] = use_of(values[kept], capacity=run.capacities.get(name))
    return uses


def _readings(run: Run, kept: np.ndarray) -> dict[str, Reading]:
    readings = {}
    for name, values in run.sensors.items():
        at = np.flatnonzero(kept & np.isfinite(values))
        if len(at):
            own = values[at]
            peak = int(np.argmax(own))
            readings[name] = Reading(float(own[peak]), int(at[peak]), float(np.median(own)), float(own.mean()))
    return readings


def _end(run: Run, to_s: float | None) -> float:
    """Where the part that counts ends: at the cut, else with the last frame, else with the run."""
    if to_s is not None:
        return min(to_s, float(run.seconds))
    return run.frames_until_s if run.frames_until_s is not None else float(run.seconds)


def _power(lanes: Sequence[Lane], from_s: float, to_s: float, aside: Sequence[Span]) -> dict[str, Energy]:
    windows = without_spans([Span(from_s, to_s)], aside) if to_s > from_s else []
    found = {}
    for lane in lanes:
        if lane.quantity in POWER_SOURCES and lane.quantity not in found:
            used = energy_of_windows(lane.t_s, lane.values, windows)
            if used is not None:
                found[lane.quantity] = used
    return found


def _rise(lanes: Sequence[Lane], first: int, last: int) -> float | None:
    lane = next((one for one in lanes if one.quantity == "temperature"), None)
    if lane is None:
        return None
    inside = (lane.t_s >= first) & (lane.t_s <= last)
    return rise_at_end(lane.t_s[inside], lane.values[inside])
