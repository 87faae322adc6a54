"""Section 12 of the method: what limits a run, second by second."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nomothet.core.frames import Floats
from nomothet.core.notes import Note, note
from nomothet.core.per_second import Run
from nomothet.core.shortage import graphics_short, main_short
from nomothet.core.sustained import Limits, held_back

Flags = NDArray[np.bool_]

# In the order in which they are asked; the first that holds names the second.
KINDS = (
    "graphics memory",
    "memory capacity",
    "heat",
    "power",
    "clock held back",
    "rate cap",
    "graphics",
    "one thread",
    "all threads",
    "storage",
)
NOTHING = "nothing recorded"
MIXED = "mixed"
LEADING = 0.5
# What has to be recorded for a kind to be found.
NEEDS: Mapping[str, tuple[str, ...]] = {
    "graphics memory": ("graphics memory used",),
    "memory capacity": ("memory used",),
    "heat": ("clock", "temperature"),
    "power": ("clock", "power"),
    "graphics": ("graphics use",),
    "one thread": ("busiest core", "processor use"),
    "storage": ("waiting for storage",),
}
_SPEAKS_FOR: Mapping[str, tuple[str, ...]] = {
    "graphics memory": ("graphics memory used", "graphics use"),
    "memory capacity": ("memory used", "major page faults"),
    "heat": ("clock", "temperature"),
    "power": ("clock", "power"),
    "clock held back": ("clock",),
    "rate cap": ("graphics use",),
    "graphics": ("graphics use",),
    "one thread": ("busiest core", "processor use"),
    "all threads": ("processor use",),
    "storage": ("waiting for storage",),
}
_UNTELLING = ("graphics", "rate cap", "graphics memory")


@dataclass(frozen=True)
class LimitReport:
    """What limited a run.

    Parameters
    ----------
    seconds : tuple of str
        The kind that names each second of the window, from `from_s` on.
    shares : mapping of kind to float
        Share of the seconds that each kind names; they add up to 1.
    also : mapping of kind to float
        Share of the seconds in which the evidence for a kind was there while another came first.
    called : str
        The kind with the largest share if that is half or more, else "mixed".
    missing : tuple of str
        Sensors without which some kinds cannot be found.
    evidence : mapping of kind to Note
        What was seen in the seconds of a kind.
    """

    from_s: int
    seconds: tuple[str, ...]
    shares: dict[str, float]
    also: dict[str, float]
    called: str
    missing: tuple[str, ...]
    evidence: dict[str, Note]


def limits_of(
    run: Run,
    *,
    from_s: int = 0,
    to_s: int | None = None,
    held_fps: float | None = None,
    declared_cap_fps: float | None = None,
    burst_clock_mhz: float | None = None,
    declared: Limits | None = None,
    kept: Flags | None = None,
) -> LimitReport:
    """What limits each second of a run.

    Parameters
    ----------
    held_fps : float, optional
        The held rate of the whole run (section 1).
    declared_cap_fps : float, optional
        The cap that the settings declare; seconds held at it count even if the whole run is not held.
    burst_clock_mhz : float, optional
        The run's own burst level (section 11).
    kept : (seconds,) array of bool, optional
        Seconds that count; what is set aside takes part in no share, and is named "".
    """
    last = run.seconds if to_s is None else min(run.seconds, to_s)
    found = evidence_by_second(
        run,
        held_fps=held_fps,
        declared_cap_fps=declared_cap_fps,
        burst_clock_mhz=burst_clock_mhz,
        declared=declared or Limits(),
    )
    window = slice(min(from_s, last), last)
    counted = np.ones(run.seconds, bool) if kept is None else kept
    names = np.full(run.seconds, NOTHING, dtype=object)
    for kind in reversed(KINDS):
        names[found[kind]] = kind
    names[~counted] = ""
    n = max(1, int(counted[window].sum()))
    shares = {kind: float(np.count_nonzero(names[window] == kind)) / n for kind in (*KINDS, NOTHING)}
    second = {kind: found[kind] & counted & (names != kind) for kind in KINDS}
    also = {kind: float(np.count_nonzero(second[kind][window])) / n for kind in KINDS}
    shares = {kind: share for kind, share in shares.items() if share > 0}
    return LimitReport(
        from_s=window.start,
        seconds=tuple(names[window]),
        shares=shares,
        also={kind: share for kind, share in also.items() if share > 0},
        called=called(shares),
        missing=missing_sensors(run),
        evidence={kind: _seen(kind, run, (names == kind), held_fps) for kind in shares if kind != NOTHING},
    )


def called(shares: Mapping[str, float]) -> str:
    """What a run is called by: its largest share if that is half or more, else mixed; of equals the upper row.

    >>> called({"graphics": 0.6, "one thread": 0.4}), called({"graphics": 0.4, "heat": 0.3, "storage": 0.3})
    ('graphics', 'mixed')
    >>> called({"one thread": 0.5, "graphics": 0.5})
    'graphics'
    """
    if not shares:
        return NOTHING
    kind = max(sorted(shares, key=_row), key=lambda name: shares[name])
    return kind if shares[kind] >= LEADING else MIXED


def evidence_by_second(
    run: Run,
    *,
    held_fps: float | None,
    declared_cap_fps: float | None,
    burst_clock_mhz: float | None,
    declared: Limits,
) -> dict[str, Flags]:
    """For each kind, the seconds in which its evidence is there; several may hold at once."""
    held = held_back(run, burst_clock_mhz, declared)
    graphics, busiest, total = (run.sensors.get(name) for name in ("graphics use", "busiest core", "processor use"))
    waiting = run.sensors.get("waiting for storage")
    one_busy, most_busy = _at_least(run, busiest, 90), _at_least(run, total, 80)
    return {
        "graphics memory": graphics_short(run),
        "memory capacity": main_short(run),
        "heat": held["temperature"],
        "power": held["power"],
        "clock held back": held["unknown"],
        "rate cap": _capped(run, held_fps, declared_cap_fps),
        "graphics": _at_least(run, graphics, 95),
        # Without the total it cannot be told whether the other cores rest.
        "one thread": one_busy & _at_least(run, total, 0) & ~most_busy,
        "all threads": _at_least(run, total, 90) | (one_busy & most_busy),
        "storage": _at_least(run, waiting, 20),
    }


def missing_sensors(run: Run) -> tuple[str, ...]:
    """Sensors that were not recorded, without which some kinds cannot be found."""
    wanted = dict.fromkeys(name for needed in NEEDS.values() for name in needed)
    return tuple(name for name in wanted if not _recorded(run, name))


def mean_shares(reports: Sequence[Mapping[str, float]]) -> dict[str, float]:
    """Shares of a cell: the mean over its passes, largest first.

    >>> mean_shares([{"graphics": 1.0}, {"graphics": 0.5, "one thread": 0.5}])
    {'graphics': 0.75, 'one thread': 0.25}
    """
    if not reports:
        return {}
    kinds = dict.fromkeys(kind for report in reports for kind in report)
    means = {kind: sum(report.get(kind, 0.0) for report in reports) / len(reports) for kind in kinds}
    return dict(sorted(means.items(), key=lambda one: (-one[1], _row(one[0]))))


def _row(kind: str) -> int:
    return KINDS.index(kind) if kind in KINDS else len(KINDS)


def masked_by(a: str, b: str) -> str | None:
    """What hides a difference in processor or memory between two cells, by what each is called; None for nothing.

    >>> masked_by("graphics", "rate cap"), masked_by("graphics", "one thread")
    ('rate cap', None)
    """
    if a in _UNTELLING and b in _UNTELLING:
        return "rate cap" if "rate cap" in (a, b) else "graphics"
    return None


def _capped(run: Run, held_fps: float | None, declared_cap_fps: float | None) -> Flags:
    none = np.zeros(run.seconds, bool)
    if run.rate is None:
        return none
    graphics = run.sensors.get("graphics use")
    free = none if graphics is None else _at_least(run, graphics, 95)
    out = none.copy()
    for cap in {held_fps, declared_cap_fps} - {None}:
        assert cap is not None
        with np.errstate(invalid="ignore"):
            out |= (np.abs(1000 / run.middle_ms / cap - 1) <= 0.01) & (run.even >= 0.8)
    return out & ~free


def _at_least(run: Run, values: Floats | None, least: float) -> Flags:
    if values is None:
        return np.zeros(run.seconds, bool)
    with np.errstate(invalid="ignore"):
        return np.asarray(values >= least, bool)


def _recorded(run: Run, quantity: str) -> bool:
    values = run.sensors.get(quantity)
    return values is not None and bool(np.isfinite(values).any())


def _seen(kind: str, run: Run, seconds: Flags, held_fps: float | None) -> Note:
    """What was seen in the seconds of a kind: the means of the sensors that speak for it."""
    means = {}
    for quantity in _SPEAKS_FOR[kind]:
        values = run.sensors.get(quantity)
        there = values[seconds] if values is not None else np.zeros(0)
        there = there[np.isfinite(there)]
        if len(there):
            means[quantity] = float(there.mean())
    full = {name: run.capacities[name] for name in means if name in run.capacities and name not in run.relative}
    return note("limit_seen", kind=kind, means=means, capacities=full, held_fps=held_fps)
