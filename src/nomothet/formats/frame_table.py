"""Frame times from delimited text (RFC 4180 and its relatives): a header line and a column of numbers."""

import csv
import io
import re
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import BinaryIO

import numpy as np
import pandas as pd

from nomothet.core.frames import Floats
from nomothet.formats.errors import BadTable
from nomothet.formats.frames_in import UNITS_MS, FrameKind, believable_unit, frames_from
from nomothet.formats.text_tables import Layout, below_header, lines_of, recognise

_SNIFF_BYTES = 65_536
_ROWS_TRIED = 200
_STAMP_WORDS = {"timestamp", "timestamps", "stamp", "time", "elapsed", "t", "clock"}


@dataclass(frozen=True)
class FrameTable:
    """Frame times read from a table, and how they were read."""

    frame_times_ms: Floats
    column: str
    unit: str
    kind: FrameKind
    rows: int


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
    name = _chosen_column(layout, column, _first_rows(head, layout))
    values = _numbers(source, layout, name)
    first_row = layout.header_lines + 1
    if not len(values):
        raise BadTable("there is a header but no row of numbers", "Add the frame times under it")
    said = unit or _unit_in_name(name)
    kind: FrameKind = "timestamps" if _are_timestamps(values, name) else "frame times"
    taken = said or (believable_unit(float(np.nanmedian(np.diff(values)))) if kind == "timestamps" else "ms")
    frames = frames_from(values, kind, taken, first_row=first_row, unit_given=said is not None)
    return FrameTable(frames, name, taken, kind, len(values))


def _layout(head: bytes) -> Layout:
    """How the file is laid out, by the reader that all tables go through."""
    layout = recognise(head)
    if layout.is_json:
        raise BadTable("this is JSON, not a table", "Use Bring in files, which reads JSON Lines too")
    return layout


def _is_number(text: str, decimal: str) -> bool:
    try:
        float(text.replace(decimal, "."))
    except ValueError:
        return False
    return True


def _words(name: str) -> list[str]:
    return re.findall(r"[a-zµ]+|\d+", re.sub(r"([a-z])([A-Z])", r"\1 \2", name).lower())


def _speaks_of_frames(name: str) -> bool:
    return any(word.startswith("frame") for word in _words(name))


def _first_rows(head: bytes, layout: Layout) -> dict[str, list[float]]:
    """The numbers of each column in the first rows, to tell what is a count of rows."""
    lines = lines_of(head.decode(layout.encoding, errors="replace"))[layout.header_lines :]
    found: dict[str, list[float]] = {name: [] for name in layout.names}
    for line in lines[:_ROWS_TRIED]:
        cells = line.split() if layout.delimiter == " " else line.split(layout.delimiter)
        for name, cell in zip(layout.names, cells, strict=False):
            if _is_number(cell, layout.decimal):
                found[name].append(float(cell.replace(layout.decimal, ".")))
    return found


def _counts_rows(values: list[float]) -> bool:
    return len(values) > 2 and all(after - before == 1 for before, after in pairwise(values))


def _chosen_column(layout: Layout, column: str | None, first_rows: dict[str, list[float]]) -> str:
    offered = ", ".join(layout.names)
    if column is not None:
        if column not in layout.names:
            raise BadTable(f"there is no column {column!r}", f"The columns are: {offered}")
        return column
    if len(layout.names) == 1:
        return layout.names[0]
    names = [name for name in layout.names if not _counts_rows(first_rows[name])]
    candidates = [name for name in names if _speaks_of_frames(name) and _unit_in_name(name) is not None]
    candidates = candidates or [name for name in names if _speaks_of_frames(name)]
    # Without frame times, the moments of the frames tell them as well.
    candidates = candidates or [name for name in names if "stamp" in "".join(_words(name))]
    candidates = candidates or [name for name in names if _STAMP_WORDS & set(_words(name))]
    if len(candidates) != 1:
        raise BadTable(
            "it is not clear which column holds the frame times",
            f"Name one of: {offered}; or keep only that column in the file",
        )
    return candidates[0]


def _numbers(source: BinaryIO, layout: Layout, name: str) -> Floats:
    at = layout.names.index(name)
    try:
        table = pd.read_csv(
            source,
            sep=r"\s+" if layout.delimiter == " " else layout.delimiter,
            header=None,
            skiprows=below_header(source, layout),
            usecols=[at],
            names=list(range(len(layout.names))),
            dtype=np.float64,
            decimal=layout.decimal,
            thousands="," if layout.decimal == "." and layout.delimiter != "," else None,
            encoding=layout.encoding,
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


def _first_bad_cell(source: BinaryIO, layout: Layout, at: int) -> BadTable:
    """The error for the first row that is not a number; found line by line, since the fast reader does not say."""
    text = io.TextIOWrapper(source, encoding=layout.encoding, errors="replace", newline="")
    try:
        rows = csv.reader(text, delimiter=layout.delimiter if layout.delimiter != " " else "\t")
        for number, fields in enumerate(rows, start=1):
            if number <= layout.header_lines:
                continue
            cell = fields[at].strip() if at < len(fields) else ""
            if fields and not _is_number(cell, layout.decimal):
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
