"""What the columns of a recording are, proposed by their names, their units and how they behave."""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.sensors import sensor_of, unit_spoken_of
from nomothet.core.units import is_unit, unit_named
from nomothet.formats.column_maps import ColumnMap, ColumnUse
from nomothet.formats.frames_in import UNITS_MS
from nomothet.formats.recordings import TIME_S
from nomothet.formats.text_tables import Layout, read_columns, recognise

_IN_BRACKETS = re.compile(r"[\[(]\s*([^\[\]()]{1,12})\s*[\])]\s*$")
_LAST_WORD = re.compile(r"(?<=[\s_.])([^\s_.\d]{1,12}|°[CF])$")
# A single letter at the end of a name is a unit only where it is hardly anything else.
_NO_UNITS = ("m", "h", "b", "k", "j", "in", "min")
_FRAME_WORDS = ("frame", "interval", "delta", "render time")
_STAMP_WORDS = re.compile(r"stamp|presented|frame (start|end|at)", re.I)
_TIME_WORDS = re.compile(r"time|stamp|elapsed|date|clock|^t$|^when$|^at$", re.I)
# Rows that follow each other faster than this are frames; a logger of sensors is slower.
_FRAMES_MS, _NAMED_FRAMES_MS = 67.0, 500.0
_A_COUNT = "it counts the rows"
_FEWEST_STAMPS = 16
_MOST_PICTURE = 240
ROWS_LOOKED_AT = 50_000


@dataclass(frozen=True)
class Seen:
    """A column as it was found, what it is proposed for and why, and a thinned picture of it."""

    use: ColumnUse
    why: str
    low: float | None
    high: float | None
    picture: list[float | None]


def look_at(path: Path, known: Sequence[ColumnMap] = ()) -> tuple[Layout, list[Seen]]:
    """Recognise a file and propose what its columns are; a known map that fits goes before the proposal.

    Raises
    ------
    BadTable
    """
    with path.open("rb") as file:
        layout = recognise(file.read(262_144))
    columns = read_columns(path, layout, most_rows=ROWS_LOOKED_AT)
    fitting = fitting_map(layout, known)
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


def fitting_map(layout: Layout, known: Sequence[ColumnMap]) -> ColumnMap | None:
    """The first of the known maps all of whose columns the file has."""
    return next((one for one in known if {use.column for use in one.columns} <= set(layout.names)), None)


def propose(layout: Layout, columns: Mapping[int, Floats]) -> list[tuple[ColumnUse, str]]:
    """What each column is: one that rises is time or the stamps of frames, small positive numbers are frame times, and
    the rest are sensors, by their names and units or by what they read."""
    found = [_behaviour(layout, at, columns[at]) for at in range(len(layout.names))]
    found = _single(layout, found, "time")
    found = _single(layout, found, "frames")
    if not any(use.role == "frames" for use, _, _ in found):
        found = _with_stamps(layout, found, columns)
    return _named([(use, why) for use, why, _ in found])


_Found = tuple[ColumnUse, str, float]


def _single(layout: Layout, found: list[_Found], role: str) -> list[_Found]:
    """One column can be the clock and one the frames: the likeliest, else the first."""
    rivals = [at for at, (use, _, _) in enumerate(found) if use.role == role]
    best = max(rivals, key=lambda at: found[at][2], default=None)
    rest = list(found)
    for at in rivals:
        if at != best:
            use, why, score = found[at]
            if why == _A_COUNT:
                rest[at] = (ColumnUse(use.column, "ignore", use.name, ""), why, 0)
                continue
            rest[at] = (_runner_up(layout, at, use, score), f"another column is the {role}", 0)
    return rest


def _runner_up(layout: Layout, at: int, use: ColumnUse, score: float) -> ColumnUse:
    """A second clock or a second frame column is left out; what only happened to rise is a reading."""
    if score >= 2 or use.role == "frames":
        return ColumnUse(use.column, "ignore", use.name, use.unit)
    _, unit = _heading(use.column, layout.units[at] if layout.units else "")
    return ColumnUse(use.column, "sensor", use.name, unit)


def _with_stamps(layout: Layout, found: list[_Found], columns: Mapping[int, Floats]) -> list[_Found]:
    """Without frame times, a clock that steps as fast as frames do is the stamps of frames.

    A clock without a unit that steps by 16 may be a logger's, in seconds; then its name must speak of frames, or
    nothing be logged beside it.
    """
    at = next((at for at, (use, _, _) in enumerate(found) if use.role == "time"), None)
    if at is None:
        return found
    use, _, score = found[at]
    finite = columns[at][np.isfinite(columns[at])]
    steps = np.diff(finite)
    if len(steps) < _FEWEST_STAMPS or not (steps > 0).all() or _counts(finite):
        return found
    step = float(np.median(steps))
    _, said = _heading(use.column, layout.units[at] if layout.units else "")
    named = bool(_STAMP_WORDS.search(use.column)) or any(word in use.column.lower() for word in _FRAME_WORDS)
    alone = not any(one.role == "sensor" for one, _, _ in found)
    unit = said if said in UNITS_MS else _frame_unit(step) if named or alone else None
    if unit is None:
        return found
    length = step * UNITS_MS[unit]
    if not 0.5 <= length < (_NAMED_FRAMES_MS if named else _FRAMES_MS):
        return found
    stamps = replace(use, role="stamps", unit=unit)
    return [*found[:at], (stamps, "it rises by a frame from row to row", score), *found[at + 1 :]]


def _frame_unit(step: float) -> str | None:
    return next((unit for unit in ("ms", "s", "us", "ns") if 0.5 <= step * UNITS_MS[unit] < 500.0), None)


def _named(found: list[tuple[ColumnUse, str]]) -> list[tuple[ColumnUse, str]]:
    """A lane that is the only one of a known sensor is called as the sensor is; others keep the name they came with."""
    keys = {use.column: _sensor_key(use) for use, _ in found if use.role == "sensor"}
    often = Counter(key for key in keys.values() if key)
    named = []
    for use, why in found:
        key = keys.get(use.column, "")
        if key:
            why = f"its name and unit are those of {key}" if sensor_of(use.name, use.unit) else why
        named.append((replace(use, name=key) if key and often[key] == 1 else use, why))
    return named


def _sensor_key(use: ColumnUse) -> str:
    sensor = sensor_of(use.name, use.unit)
    return sensor.key if sensor else ""


def _behaviour(layout: Layout, at: int, values: Floats) -> _Found:
    name = layout.names[at]
    plain, unit = _heading(name, layout.units[at] if layout.units else "")
    finite = values[np.isfinite(values)]
    if len(finite) < 2 or len(finite) < 0.5 * len(values):
        return ColumnUse(name, "ignore", plain, unit), "it holds hardly any numbers", 0.0
    speaks = any(word in name.lower() for word in _FRAME_WORDS)
    is_reading = sensor_of(plain, unit) is not None
    if not is_reading and _rises(finite) and not (speaks and unit in UNITS_MS and not _STAMP_WORDS.search(name)):
        time_unit = unit if unit in TIME_S else _time_unit(finite)
        named = 1.0 if _TIME_WORDS.search(name) else 0.0
        if _counts(finite) and not named:
            return ColumnUse(name, "time", plain, time_unit), _A_COUNT, 0.0
        return ColumnUse(name, "time", plain, time_unit), "it rises from row to row", 1 + named
    if (finite > 0).all() and unit in ("", *UNITS_MS) and (speaks or _like_frames(finite, unit)):
        frame_unit = unit if unit in UNITS_MS else ("s" if float(np.median(finite)) < 0.5 else "ms")
        return ColumnUse(name, "frames", plain, frame_unit), "small positive numbers, one a row", 1.0 + speaks
    if not unit:
        spoken = unit_spoken_of(plain, float(finite.min()), float(finite.max()))
        if spoken:
            return ColumnUse(name, "sensor", plain, spoken), f"its name speaks of a reading in {spoken}", 0.0
        if finite.min() >= 0 and 1 < finite.max() <= 100:
            return ColumnUse(name, "sensor", plain, "%"), "it stays between 0 and 100, like a share", 0.0
    return ColumnUse(name, "sensor", plain, unit), "a reading that goes up and down", 0.0


def _counts(finite: Floats) -> bool:
    return bool(np.all(np.diff(finite) == 1))


def _rises(finite: Floats) -> bool:
    steps = np.diff(finite)
    rises = float(np.mean(steps > 0))
    return rises >= 0.95 or (rises >= 0.5 and float(np.mean(steps >= 0)) >= 0.99)


def _like_frames(finite: Floats, unit: str) -> bool:
    return unit in UNITS_MS and 0.2 <= float(np.median(finite)) * UNITS_MS[unit] <= 200


def _heading(name: str, given: str) -> tuple[str, str]:
    """The plain name and the unit of a heading: in brackets, as its last word, or given in a line below.

    >>> _heading("CPU Temp [°C]", ""), _heading("Temperature °F", ""), _heading("frame_ms", ""), _heading("die", "c")
    (('CPU Temp', '°C'), ('Temperature', '°F'), ('frame', 'ms'), ('die', '°C'))
    """
    if given:
        return _plain(name), unit_named(given)
    bracketed = _IN_BRACKETS.search(name)
    if bracketed:
        return _plain(name[: bracketed.start()]) or name, unit_named(bracketed[1])
    last = _LAST_WORD.search(name)
    if last and is_unit(last[1]) and last[1].lower() not in _NO_UNITS:
        return _plain(name[: last.start()]) or name, unit_named(last[1])
    return _plain(name), ""


def _plain(name: str) -> str:
    bracketed = _IN_BRACKETS.search(name)
    return (name[: bracketed.start()] if bracketed else name).strip(" _.") or name


def _time_unit(finite: Floats) -> str:
    """The unit that makes a believable step between rows: between a few milliseconds and a minute."""
    step = float(np.median(np.abs(np.diff(finite))))
    return next((unit for unit in ("s", "ms", "us", "ns") if 0.002 <= step * TIME_S[unit] <= 60), "s")


def _picture(values: Floats) -> list[float | None]:
    """So many points of a column that its shape is seen: the means of equal stretches."""
    if not len(values):
        return []
    parts = np.array_split(values, min(len(values), _MOST_PICTURE))
    means = [float(np.mean(part[np.isfinite(part)])) if np.isfinite(part).any() else None for part in parts]
    return [None if one is None else round(one, 4) for one in means]
