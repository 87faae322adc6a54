"""Frame times from delimited text (RFC 4180 and its relatives): a header line and a column of numbers."""

import csv
import io
import re
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, Literal

import numpy as np
import pandas as pd

from nomothet.core.errors import BadFrames
from nomothet.core.frames import Floats, checked_frame_times, frame_times_of
from nomothet.formats.errors import BadTable

UNITS_MS = {"s": 1000.0, "ms": 1.0, "us": 0.001, "µs": 0.001, "ns": 0.000001}

_SNIFF_BYTES = 65_536
# A frame between these lengths is believable; the bounds lie a factor 1000 apart, so that one unit at most fits.
_SHORTEST_MS, _LONGEST_MS = 0.5, 500.0
_SHORTEST_TAKEN_MS = 0.05
_STAMP_WORDS = {"timestamp", "timestamps", "stamp", "time", "elapsed", "t", "clock"}


@dataclass(frozen=True)
class FrameTable:
    """Frame times read from a table, and how they were read."""

    frame_times_ms: Floats
    column: str
    unit: str
    kind: Literal["frame times", "timestamps"]
    rows: int


@dataclass(frozen=True)
class _Layout:
    separator: str
    names: list[str]
    has_header: bool


def read_frame_table(source: Path | BinaryIO, *, column: str | None = None, unit: str | None = None) -> FrameTable:
    """Frame times of a delimited text file.

    Parameters
    ----------
    source : path or binary file
    column : str, optional
        The column to take. Without it, the only column, or the only one whose name speaks of frames, is taken.
    unit : {"s", "ms", "us", "ns"}, optional
        Unit of the column. Without it, the unit in the column's name; else ms for frame times, and for timestamps the
        one unit that makes believable frames.

    Raises
    ------
    BadTable
        When the file cannot be taken as frame times. The message names the row, where one is to blame, and the remedy.

    Examples
    --------
    >>> read_frame_table(io.BytesIO(b"frame_ms\\n16.5\\n17\\n")).frame_times_ms.tolist()
    [16.5, 17.0]
    """
    if isinstance(source, Path):
        with source.open("rb") as file:
            return read_frame_table(file, column=column, unit=unit)
    if unit is not None and unit not in UNITS_MS:
        raise BadTable(f"the unit {unit!r} is not known", "Use s, ms, us or ns")
    head = source.read(_SNIFF_BYTES)
    source.seek(0)
    layout = _layout(head)
    name = _chosen_column(layout, column)
    values = _numbers(source, layout, name)
    first_row = 2 if layout.has_header else 1
    if not len(values):
        raise BadTable("there is a header but no row of numbers", "Add the frame times under it")
    unit = unit or _unit_in_name(name)
    if _are_timestamps(values, name):
        return _from_timestamps(values, name, unit, first_row)
    return _from_durations(values, name, unit, first_row)


def _layout(head: bytes) -> _Layout:
    if not head.strip():
        raise BadTable("the file is empty", "Choose a file with a header line and a column of frame times")
    if b"\0" in head:
        raise BadTable("this is not a text file", "Save the frame times as CSV (comma-separated text) and try again")
    try:
        text = head.decode("utf-8-sig", errors="strict" if len(head) < _SNIFF_BYTES else "ignore")
    except UnicodeDecodeError as error:
        row = head[: error.start].count(b"\n") + 1
        raise BadTable("the text is not UTF-8", "Save the file with the encoding UTF-8", row) from None
    line = text.splitlines()[0]
    separator = max(",;\t", key=line.count)
    names = [field.strip() for field in next(csv.reader([line], delimiter=separator))]
    has_header = not all(_is_number(name) for name in names)
    if not has_header:
        names = [f"column {at + 1}" for at in range(len(names))]
    return _Layout(separator, names, has_header)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _words(name: str) -> list[str]:
    return re.findall(r"[a-zµ]+|\d+", re.sub(r"([a-z])([A-Z])", r"\1 \2", name).lower())


def _speaks_of_frames(name: str) -> bool:
    return any(word.startswith("frame") for word in _words(name))


def _chosen_column(layout: _Layout, column: str | None) -> str:
    offered = ", ".join(layout.names)
    if column is not None:
        if column not in layout.names:
            raise BadTable(f"there is no column {column!r}", f"The columns are: {offered}")
        return column
    if len(layout.names) == 1:
        return layout.names[0]
    candidates = [name for name in layout.names if _speaks_of_frames(name) and _unit_in_name(name) is not None]
    candidates = candidates or [name for name in layout.names if _speaks_of_frames(name)]
    if len(candidates) != 1:
        raise BadTable(
            "it is not clear which column holds the frame times",
            f"Name one of: {offered}; or keep only that column in the file",
        )
    return candidates[0]


def _numbers(source: BinaryIO, layout: _Layout, name: str) -> Floats:
    at = layout.names.index(name)
    header = 0 if layout.has_header else None
    try:
        table = pd.read_csv(
            source,
            sep=layout.separator,
            header=header,
            usecols=[at],
            dtype=np.float64,
            skip_blank_lines=False,
            index_col=False,
        )
    except (ValueError, pd.errors.ParserError):
        source.seek(0)
        raise _first_bad_cell(source, layout, at) from None
    return np.ascontiguousarray(_without_trailing_blanks(table.iloc[:, 0].to_numpy()))


def _without_trailing_blanks(values: Floats) -> Floats:
    end = len(values)
    while end and np.isnan(values[end - 1]):
        end -= 1
    return values[:end]


def _first_bad_cell(source: BinaryIO, layout: _Layout, at: int) -> BadTable:
    """The error for the first row that is not a number; found line by line, since the fast reader does not say."""
    text = io.TextIOWrapper(source, encoding="utf-8-sig", errors="replace", newline="")
    try:
        for number, fields in enumerate(csv.reader(text, delimiter=layout.separator), start=1):
            if number == 1 and layout.has_header:
                continue
            cell = fields[at].strip() if at < len(fields) else ""
            if fields and not _is_number(cell):
                return BadTable(*_about_cell(cell), row=number)
            if len(fields) > len(layout.names):
                return BadTable(
                    f"there are {len(fields)} fields where the header has {len(layout.names)}",
                    "Correct that row and try again",
                    number,
                )
        return BadTable("the file cannot be read as a table", "Save it as CSV with one header line and try again")
    finally:
        text.detach()


def _about_cell(cell: str) -> tuple[str, str]:
    if not cell:
        return "the value is missing", "Put the frame time in or delete that row"
    if re.fullmatch(r"-?\d+,\d+", cell):
        return f"{cell!r} has a decimal comma", "Write it with a decimal point"
    return f"{cell!r} is not a number", "Correct or delete that row and try again"


def _unit_in_name(name: str) -> str | None:
    words = _words(name)
    for word, unit in (("ms", "ms"), ("us", "us"), ("µs", "us"), ("ns", "ns"), ("s", "s"), ("seconds", "s")):
        if word in words:
            return unit
    return "ms" if "milliseconds" in words else None


def _are_timestamps(values: Floats, name: str) -> bool:
    words = _words(name)
    if len(values) < 2 or "stamp" in "".join(words):
        return len(values) >= 2
    if any(word.startswith("frame") for word in words):
        return False
    rising = float(np.mean(np.diff(values) > 0))
    if _STAMP_WORDS & set(words):
        return rising >= 0.9
    return rising >= 0.99 and (len(values) >= 16 or values[0] == 0)


def _from_timestamps(values: Floats, name: str, unit: str | None, first_row: int) -> FrameTable:
    bad = np.flatnonzero(~np.isfinite(values))
    if len(bad):
        raise BadTable(
            "the timestamp is missing or not a number", "Correct or delete that row", first_row + int(bad[0])
        )
    unit = unit or _believable_unit(float(np.median(np.diff(values))))
    try:
        frames = frame_times_of(values, UNITS_MS[unit])
    except BadFrames as error:
        row = first_row + error.positions[0] if error.positions else None
        raise BadTable(
            "the timestamp does not come after the one before it", "Correct or delete that row and try again", row
        ) from None
    return FrameTable(frames, name, unit, "timestamps", len(values))


def _believable_unit(median_step: float) -> str:
    for unit in ("ms", "s", "us", "ns"):
        if _SHORTEST_MS <= median_step * UNITS_MS[unit] < _LONGEST_MS:
            return unit
    raise BadTable(
        f"the timestamps rise by {median_step:g} at a time, which makes no believable frame in any unit",
        "Say their unit: s, ms, us or ns",
    )


def _refuse_seconds(frames: Floats) -> None:
    """Without a unit, frame times are milliseconds; far shorter ones are more likely seconds."""
    median = float(np.median(frames))
    if median < _SHORTEST_TAKEN_MS:
        raise BadTable(
            f"taken as milliseconds, the median frame would last {median:g} ms",
            "If the column is in seconds, say so by the unit or call the column frame_s",
        )


def _from_durations(values: Floats, name: str, unit: str | None, first_row: int) -> FrameTable:
    unit_given = unit is not None
    unit = unit or "ms"
    try:
        frames = checked_frame_times(values if unit == "ms" else values * UNITS_MS[unit])
    except BadFrames as error:
        at = error.positions[0]
        value = values[at]
        problem = "the value is missing" if np.isnan(value) else f"a frame time of {value:g} is not possible"
        raise BadTable(problem, "It must be a number above 0; correct or delete that row", first_row + at) from None
    if not unit_given:
        _refuse_seconds(frames)
    return FrameTable(frames, name, unit, "frame times", len(values))
