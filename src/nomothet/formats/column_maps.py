"""What the columns of a recording are: proposed by how they behave, confirmed by a person, kept as a named map."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Literal

import numpy as np

from nomothet.core.frames import Floats
from nomothet.formats.errors import BadTable
from nomothet.formats.text_tables import Layout, read_columns, recognise

Role = Literal["time", "frames", "sensor", "ignore"]
ROLES: tuple[Role, ...] = ("time", "frames", "sensor", "ignore")

_TIME_S = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9, "min": 60.0}
_FRAME_MS = {"s": 1000.0, "ms": 1.0, "us": 1e-3, "µs": 1e-3, "ns": 1e-6}
_UNIT_AT_END = re.compile(
    r"[\[(]\s*([^\[\]()]{1,8})\s*[\])]\s*$|[_ ](ms|us|ns|s|pct|percent|c|mhz|ghz|w|mb|gb|fps|rpm)$", re.I
)
_UNIT_NAMES = {"pct": "%", "percent": "%", "c": "°C", "°c": "°C", "mhz": "MHz", "ghz": "GHz", "w": "W", "mb": "MB",
               "gb": "GB", "rpm": "1/min", "µs": "us"}  # fmt: skip
_FRAME_WORDS = ("frame", "interval", "delta", "render time")
_GAP_TIMES, _GAP_S = 5.0, 1.0
_MOST_PICTURE = 240
_ROWS_LOOKED_AT = 50_000


@dataclass(frozen=True)
class ColumnUse:
    """What one column is taken for. `name` is what its lane will be called."""

    column: str
    role: Role
    name: str = ""
    unit: str = ""


@dataclass(frozen=True)
class ColumnMap:
    """How a kind of file is read."""

    columns: list[ColumnUse]

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, stored: Mapping[str, Any]) -> "ColumnMap":
        return cls([ColumnUse(**one) for one in stored["columns"]])


@dataclass(frozen=True)
class Seen:
    """A column as it was found, what it is proposed for and why, and a thinned picture of it."""

    use: ColumnUse
    why: str
    low: float | None
    high: float | None
    picture: list[float | None]


@dataclass(frozen=True)
class Sensor:
    """A lane read from a file: seconds from its first row, and values."""

    name: str
    unit: str
    t_s: Floats
    value: Floats


@dataclass(frozen=True)
class Recording:
    """What a file holds under a map, with what is odd about its clock."""

    frame_times_ms: Floats | None
    sensors: list[Sensor]
    duration_s: float
    rows: int
    remarks: list[str] = field(default_factory=list)


def look_at(path: Path, known: Sequence[ColumnMap] = ()) -> tuple[Layout, list[Seen]]:
    """Recognise a file and propose what its columns are; a known map that fits goes before the proposal.

    Raises
    ------
    BadTable
    """
    with path.open("rb") as file:
        layout = recognise(file.read(262_144))
    columns = read_columns(path, layout, most_rows=_ROWS_LOOKED_AT)
    fitting = next((one for one in known if {use.column for use in one.columns} <= set(layout.names)), None)
    uses = {use.column: use for use in fitting.columns} if fitting else {}
    proposed = propose(layout, columns)
    seen = []
    for at, (use, why) in enumerate(proposed):
        taken = uses.get(use.column, ColumnUse(use.column, "ignore", use.name, use.unit)) if fitting else use
        values = columns[at]
        finite = values[np.isfinite(values)]
        low, high = (float(finite.min()), float(finite.max())) if len(finite) else (None, None)
        seen.append(Seen(taken, "as in the column map" if fitting else why, low, high, _picture(values)))
    return layout, seen


def propose(layout: Layout, columns: Mapping[int, Floats]) -> list[tuple[ColumnUse, str]]:
    """What each column is by its behaviour: one that rises is time, small positive numbers are frame times, 0 to 100 a
    share."""
    found = [_behaviour(layout, at, columns[at]) for at in range(len(layout.names))]
    for role in ("time", "frames"):
        # One column can be the clock and one the frames: the likeliest, else the first.
        rivals = [at for at, (use, _, _) in enumerate(found) if use.role == role]
        best = max(rivals, key=lambda at: found[at][2], default=None)
        for at in rivals:
            if at != best:
                use, _, score = found[at]
                found[at] = (_runner_up(layout, at, use, score), f"another column is the {role}", 0)
    return [(use, why) for use, why, _ in found]


def _runner_up(layout: Layout, at: int, use: ColumnUse, score: float) -> ColumnUse:
    """A second clock or a second frame column is left out; what only happened to rise is a reading."""
    if score >= 2 or use.role == "frames":
        return ColumnUse(use.column, "ignore", use.name, use.unit)
    unit = _unit_of(use.column, layout.units[at] if layout.units else "")
    return ColumnUse(use.column, "sensor", use.name, unit)


def read_recording(path: Path, chosen: ColumnMap) -> Recording:
    """Read a file by a map.

    Raises
    ------
    BadTable
        When a column is missing, the frames cannot be frame times, or nothing is left to store.
    """
    with path.open("rb") as file:
        layout = recognise(file.read(262_144))
    wanted = {use.column: use for use in chosen.columns if use.role != "ignore"}
    missing = [name for name in wanted if name not in layout.names]
    if missing:
        raise BadTable(f"there is no column {missing[0]!r}", f"The columns are: {', '.join(layout.names)}")
    places = {layout.names.index(name): use for name, use in wanted.items()}
    columns = read_columns(path, layout, sorted(places))
    remarks: list[str] = []
    time = next((_seconds(columns[at], use, remarks) for at, use in places.items() if use.role == "time"), None)
    frames = next((_frames(columns[at], use, remarks) for at, use in places.items() if use.role == "frames"), None)
    rows = len(next(iter(columns.values()), np.array([])))
    clock = time if time is not None else _clock_of(frames, rows)
    sensors = [
        Sensor(use.name or use.column, use.unit, *_kept(clock, columns[at]))
        for at, use in places.items()
        if use.role == "sensor" and clock is not None
    ]
    sensors = [sensor for sensor in sensors if len(sensor.t_s)]
    if frames is None and not sensors:
        raise BadTable(
            "nothing is left to store", "Say which column is the time, which the frame times, and which are sensors"
        )
    duration = (
        float(np.nansum(frames)) / 1000 if frames is not None else float(np.nanmax(clock)) if clock is not None else 0.0
    )
    return Recording(frames, sensors, duration, rows, remarks)


def _behaviour(layout: Layout, at: int, values: Floats) -> tuple[ColumnUse, str, float]:
    name = layout.names[at]
    unit = _unit_of(name, layout.units[at] if layout.units else "")
    plain = _UNIT_AT_END.sub("", name).strip(" _") or name
    finite = values[np.isfinite(values)]
    if len(finite) < 2 or len(finite) < 0.5 * len(values):
        return ColumnUse(name, "ignore", plain, unit), "it holds hardly any numbers", 0.0
    speaks = any(word in name.lower() for word in _FRAME_WORDS)
    steps = np.diff(finite)
    rises = float(np.mean(steps > 0))
    if (rises >= 0.95 or (rises >= 0.5 and float(np.mean(steps >= 0)) >= 0.99)) and not (speaks and unit in _FRAME_MS):
        time_unit = unit if unit in _TIME_S else _time_unit(finite)
        named = 1.0 if re.search(r"time|stamp|elapsed|date|clock|^t$", name.lower()) else 0.0
        counts = float(np.all(steps == 1))
        return ColumnUse(name, "time", plain, time_unit), "it rises from row to row", 1 + named - counts
    if (finite > 0).all() and unit in ("", *_FRAME_MS) and (speaks or _like_frames(finite, unit)):
        frame_unit = unit if unit in _FRAME_MS else ("s" if float(np.median(finite)) < 0.5 else "ms")
        return ColumnUse(name, "frames", plain, frame_unit), "small positive numbers, one a row", 1.0 + speaks
    if not unit and finite.min() >= 0 and finite.max() <= 100 and finite.max() > 1:
        return ColumnUse(name, "sensor", plain, "%"), "it stays between 0 and 100, like a share", 0.0
    return ColumnUse(name, "sensor", plain, unit), "a reading that goes up and down", 0.0


def _like_frames(finite: Floats, unit: str) -> bool:
    if unit not in _FRAME_MS:
        return False
    median = float(np.median(finite)) * _FRAME_MS[unit]
    return 0.2 <= median <= 200


def _unit_of(name: str, given: str) -> str:
    found = _UNIT_AT_END.search(name)
    text = given or ((found[1] or found[2]) if found else "")
    return _UNIT_NAMES.get(text.lower(), text)


def _time_unit(finite: Floats) -> str:
    """The unit that makes a believable step between rows: between a tenth of a millisecond and a minute."""
    step = float(np.median(np.abs(np.diff(finite))))
    for unit in ("s", "ms", "us", "ns"):
        if 0.002 <= step * _TIME_S[unit] <= 60:
            return unit
    return "s"


def _seconds(values: Floats, use: ColumnUse, remarks: list[str]) -> Floats:
    """Seconds from the first row, made to go forward; gaps, repeats and jumps are remarked."""
    t = values * _TIME_S.get(use.unit or "s", 1.0)
    known = np.isfinite(t)
    if not known.any():
        raise BadTable(f"{use.column!r} holds no times", "Choose another column for the time")
    steps = np.diff(t[known])
    usual = float(np.median(steps[steps > 0])) if (steps > 0).any() else 0.0
    back = np.flatnonzero(steps < 0)
    if len(back):
        remarks.append(
            f"the clock goes back {len(back)} times, first after {t[known][back[0]] - t[known][0]:.1f} s; "
            "what follows is joined on"
        )
        forward = np.where(steps < 0, usual, steps)
        t[known] = t[known][0] + np.concatenate([[0.0], np.cumsum(forward)])
        steps = forward
    repeats = int((steps == 0).sum())
    if repeats:
        remarks.append(f"{repeats} rows have the same time as the row before")
    gaps = np.flatnonzero(steps > max(_GAP_TIMES * usual, _GAP_S))
    if len(gaps):
        longest = float(steps[gaps].max())
        remarks.append(f"{len(gaps)} gaps in the recording, the longest {longest:.1f} s")
    if not known.all():
        remarks.append(f"{int((~known).sum())} rows have no time and are left out of the lanes")
    shifted: Floats = t - t[known][0]
    return shifted


def _frames(values: Floats, use: ColumnUse, remarks: list[str]) -> Floats:
    frames = values * _FRAME_MS.get(use.unit or "ms", 1.0)
    good = np.isfinite(frames) & (frames > 0)
    bad = int((~good).sum())
    if bad > 0.02 * len(frames):
        at = int(np.flatnonzero(~good)[0])
        raise BadTable(
            f"{bad} values of {use.column!r} cannot be frame times", "Choose another column for the frames", at + 1
        )
    if bad:
        remarks.append(f"{bad} rows without a usable frame time are left out")
    kept: Floats = frames[good]
    return kept


def _clock_of(frames: Floats | None, rows: int) -> Floats | None:
    """Without a time, a row's frame says when it was."""
    if frames is None or len(frames) != rows:
        return None
    ends: Floats = np.cumsum(frames) / 1000
    return ends


def _kept(clock: Floats, values: Floats) -> tuple[Floats, Floats]:
    """Rows with a time and a value; of rows at one time the first."""
    good = np.isfinite(clock) & np.isfinite(values)
    t, value = clock[good], values[good]
    fresh = np.concatenate([[True], np.diff(t) > 0]) if len(t) else np.array([], bool)
    return t[fresh], value[fresh]


def _picture(values: Floats) -> list[float | None]:
    """So many points of a column that its shape is seen: the means of equal stretches."""
    if not len(values):
        return []
    parts = np.array_split(values, min(len(values), _MOST_PICTURE))
    means = [float(np.mean(part[np.isfinite(part)])) if np.isfinite(part).any() else None for part in parts]
    return [None if one is None else round(one, 4) for one in means]
