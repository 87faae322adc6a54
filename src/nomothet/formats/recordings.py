"""A recording read by a column map: frames, lanes, when it began, and what is odd about it or is lost."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.notes import Note, note
from nomothet.core.sensors import possible_range
from nomothet.core.units import unit_named
from nomothet.formats.column_maps import ColumnMap, ColumnUse
from nomothet.formats.errors import BadTable
from nomothet.formats.frames_in import UNITS_MS, frames_from, refuse_implausible
from nomothet.formats.text_tables import Layout, read_columns, recognise, rows_below

TIME_S = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9, "min": 60.0, "h": 3600.0}
_GAP_TIMES, _GAP_S = 5.0, 1.0
# A recording of two weeks is one whose time is something else.
_LONGEST_S = 14 * 24 * 3600.0
# Seconds of the epoch that a clock can show: 2001 to 2100.
_EPOCH_S = (978_307_200.0, 4_102_444_800.0)
_FEWEST_ROWS = 10


@dataclass(frozen=True)
class Lane:
    """A sensor read from a file: seconds from its first row, and values."""

    name: str
    unit: str
    t_s: Floats
    value: Floats


@dataclass(frozen=True)
class Recording:
    """What a file holds under a map.

    Attributes
    ----------
    began_s : float or None
        Seconds of the epoch at which it began, where its own clock says so.
    remarks : list of Note
        What is odd about it, and what of the file is lost.
    """

    frame_times_ms: Floats | None
    sensors: list[Lane]
    duration_s: float
    rows: int
    began_s: float | None = None
    remarks: list[Note] = field(default_factory=list)


def read_recording(path: Path, chosen: ColumnMap, most_rows: int | None = None) -> Recording:
    """Read a file by a map.

    Parameters
    ----------
    most_rows : int, optional
        Read about so many rows only, to tell beforehand what will be odd.

    Raises
    ------
    BadTable
        When a column is missing, the frames cannot be frames, the rows have no time, or nothing is left to store.
    """
    with path.open("rb") as file:
        layout = recognise(file.read(262_144))
    wanted = {use.column: use for use in chosen.columns if use.role != "ignore"}
    missing = [name for name in wanted if name not in layout.names]
    if missing:
        raise BadTable(f"there is no column {missing[0]!r}", f"The columns are: {', '.join(layout.names)}")
    if not any(use.role != "time" for use in wanted.values()):
        raise BadTable(
            "nothing is left to store", "Say which column is the time, which the frame times, and which are sensors"
        )
    places = {layout.names.index(name): use for name, use in wanted.items()}
    columns = read_columns(path, layout, sorted(places), most_rows)
    rows = len(next(iter(columns.values())))
    remarks = _lost(path, layout, chosen, rows if most_rows is None or rows < most_rows else None)
    clock, began = _clock(places, columns, chosen.every_s, rows, remarks)
    frames = _frames(places, columns, remarks)
    if clock is None:
        clock = _clock_of(frames, rows)
    lanes = _lanes(places, columns, clock, remarks)
    if frames is None and not lanes:
        raise BadTable("nothing is left to store", "Choose columns that hold numbers")
    duration = float(np.sum(frames)) / 1000 if frames is not None else float(np.nanmax(clock))
    if duration > _LONGEST_S:
        raise BadTable(
            f"the recording would last {duration / 86_400:,.0f} days",
            "The column taken for the time holds something else, or another unit; choose again",
        )
    return Recording(frames, lanes, duration, rows, began, remarks)


def _lost(path: Path, layout: Layout, chosen: ColumnMap, rows: int | None) -> list[Note]:
    """What of the file will not be in the pass: rows that do not fit the table, and columns left out."""
    remarks = []
    if rows is not None:
        unread = rows_below(path, layout) - rows
        if unread > 0:
            remarks.append(note("rows_not_read", rows=unread, of=unread + rows))
    left = [use.column for use in chosen.columns if use.role == "ignore"]
    if left:
        remarks.append(note("columns_left_out", columns=left))
    return remarks


def _clock(
    places: Mapping[int, ColumnUse], columns: Mapping[int, Floats], every_s: float | None, rows: int,
    remarks: list[Note],
) -> tuple[Floats | None, float | None]:  # fmt: skip
    """Seconds of each row from the first, and when that was."""
    for role in ("time", "stamps"):
        at = next((at for at, use in places.items() if use.role == role), None)
        if at is not None:
            # What is odd about the stamps of frames stops the reading; it needs no remark.
            return _seconds(columns[at], places[at], remarks if role == "time" else [])
    if any(use.role == "frames" for use in places.values()):
        return None, None
    if every_s is None:
        raise BadTable("no column is the time", "Choose the column that is, or say how many seconds lie between rows")
    evenly: Floats = np.arange(rows, dtype=np.float64) * every_s
    return evenly, None


def _seconds(values: Floats, use: ColumnUse, remarks: list[Note]) -> tuple[Floats, float | None]:
    """Seconds from the first row, made to go forward; gaps, repeats and jumps are remarked."""
    t = values * TIME_S.get(unit_named(use.unit or "s", "s"), 1.0)
    known = np.isfinite(t)
    if not known.any():
        raise BadTable(f"{use.column!r} holds no times", "Choose another column for the time")
    first = float(t[known][0])
    steps = np.diff(t[known])
    usual = float(np.median(steps[steps > 0])) if (steps > 0).any() else 0.0
    back = np.flatnonzero(steps < 0)
    if len(back) > 0.2 * len(steps):
        raise BadTable(f"{use.column!r} goes back every few rows", "It is no time; choose another column for it")
    if len(back):
        remarks.append(note("clock_goes_back", times=len(back), first_s=float(t[known][back[0]] - first)))
        steps = np.where(steps < 0, usual, steps)
        t[known] = first + np.concatenate([[0.0], np.cumsum(steps)])
    repeats = int((steps == 0).sum())
    if repeats:
        remarks.append(note("times_repeat", rows=repeats))
    gaps = np.flatnonzero(steps > max(_GAP_TIMES * usual, _GAP_S))
    if len(gaps):
        remarks.append(note("gaps", gaps=len(gaps), longest_s=float(steps[gaps].max())))
    if not known.all():
        remarks.append(note("rows_without_time", rows=int((~known).sum())))
    return t - first, first if _EPOCH_S[0] <= first <= _EPOCH_S[1] else None


def _frames(places: Mapping[int, ColumnUse], columns: Mapping[int, Floats], remarks: list[Note]) -> Floats | None:
    """Frame times in ms, of a column of lengths or of stamps; a last row that was cut short is left out."""
    for at, use in places.items():
        if use.role == "stamps":
            stamps = columns[at][np.isfinite(columns[at])]
            if len(stamps) < len(columns[at]):
                remarks.append(note("frames_left_out", rows=len(columns[at]) - len(stamps)))
            return frames_from(stamps, "timestamps", use.unit or "ms")
        if use.role == "frames":
            return _lengths(columns[at], use, remarks)
    return None


def _lengths(values: Floats, use: ColumnUse, remarks: list[Note]) -> Floats:
    frames = values * UNITS_MS.get(use.unit or "ms", 1.0)
    good = np.isfinite(frames) & (frames > 0)
    bad = int((~good).sum())
    if bad > 0.02 * len(frames):
        at = int(np.flatnonzero(~good)[0])
        raise BadTable(
            f"{bad} values of {use.column!r} cannot be frame times", "Choose another column for the frames", at + 1
        )
    if bad:
        remarks.append(note("frames_left_out", rows=bad))
    kept: Floats = frames[good]
    refuse_implausible(kept)
    return kept


def _clock_of(frames: Floats | None, rows: int) -> Floats:
    """Without a time, a row's frame says when it was."""
    if frames is None or len(frames) != rows:
        raise BadTable("the sensors have no time", "Choose the column that is the time, or leave the sensors out")
    ends: Floats = np.cumsum(frames) / 1000
    return ends


def _lanes(
    places: Mapping[int, ColumnUse], columns: Mapping[int, Floats], clock: Floats, remarks: list[Note]
) -> list[Lane]:
    lanes = [
        Lane(use.name or use.column, use.unit, *_kept(clock, columns[at]))
        for at, use in places.items()
        if use.role == "sensor"
    ]
    for lane in lanes:
        remarks += _oddities(lane)
    return [lane for lane in lanes if len(lane.t_s)]


def _oddities(lane: Lane) -> Sequence[Note]:
    """Whether a lane is empty, stands still, or reads what its unit cannot be (section 24)."""
    if not len(lane.value):
        return [note("lane_empty", lane=lane.name)]
    low, high = float(lane.value.min()), float(lane.value.max())
    if len(lane.value) >= _FEWEST_ROWS and low == high:
        return [note("lane_constant", lane=lane.name, value=low, unit=lane.unit)]
    bounds = possible_range(lane.name, lane.unit)
    if bounds and not bounds[0] <= low <= high <= bounds[1]:
        worst = low if low < bounds[0] else high
        return [note("lane_impossible", lane=lane.name, value=worst, unit=lane.unit)]
    return []


def _kept(clock: Floats, values: Floats) -> tuple[Floats, Floats]:
    """Rows with a time and a value; of rows at one time the first."""
    good = np.isfinite(clock) & np.isfinite(values)
    t, value = clock[good], values[good]
    fresh = np.concatenate([[True], np.diff(t) > 0]) if len(t) else np.array([], bool)
    return t[fresh], value[fresh]
