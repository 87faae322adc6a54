"""Frame times as they come in: lengths or timestamps, in any unit, in every way in; what cannot be is refused."""

from typing import Literal

import numpy as np

from nomothet.core.errors import BadFrames
from nomothet.core.frames import Floats, checked_frame_times, frame_times_of
from nomothet.formats.errors import BadTable

FrameKind = Literal["frame times", "timestamps"]
UNITS_MS = {"s": 1000.0, "ms": 1.0, "us": 0.001, "µs": 0.001, "ns": 0.000001}

# A frame between these lengths is believable; the bounds lie a factor 1000 apart, so that one unit at most fits.
_SHORTEST_MS, _LONGEST_MS = 0.5, 500.0
# Beyond these the median frame is no frame, and a run no run, whatever the unit.
_SHORTEST_TAKEN_MS, _LONGEST_TAKEN_MS = 0.05, 10_000.0
_LONGEST_RUN_S = 14 * 24 * 3600.0


def believable_unit(median_step: float) -> str:
    """The one unit in which a step from timestamp to timestamp is a frame.

    Raises
    ------
    BadTable
        When there is none.

    Examples
    --------
    >>> believable_unit(16667.0), believable_unit(0.0167)
    ('us', 's')
    """
    for unit in ("ms", "s", "us", "ns"):
        if _SHORTEST_MS <= median_step * UNITS_MS[unit] < _LONGEST_MS:
            return unit
    raise BadTable(
        f"the timestamps rise by {median_step:g} at a time, which makes no believable frame in any unit",
        "Say their unit: s, ms, us or ns",
    )


def frames_from(values: Floats, kind: FrameKind, unit: str, *, first_row: int = 1, unit_given: bool = True) -> Floats:
    """Frame times in ms from a column of lengths or of timestamps.

    Parameters
    ----------
    values : (n,) array
        The column, NaN where a value is missing.
    first_row : int
        Row of the first value in its file, for messages.
    unit_given : bool
        Whether somebody, or the column's name, has said the unit; then it is believed as far as it can be.

    Raises
    ------
    BadTable
        When the column cannot be frame times; the message names the row and the remedy.
    """
    frames = (
        _from_timestamps(values, unit, first_row) if kind == "timestamps" else _from_lengths(values, unit, first_row)
    )
    refuse_implausible(frames, unit_given=unit_given)
    return frames


def refuse_implausible(frames: Floats, *, unit_given: bool = True) -> None:
    """Refuse frames that no machine has drawn, before anything is stored.

    Raises
    ------
    BadTable
        Names what the median frame would be, and what the column may be instead.
    """
    median = float(np.median(frames))
    if median < _SHORTEST_TAKEN_MS:
        remedy = (
            "If the column is in seconds, say so by the unit or call the column frame_s"
            if not unit_given
            else "Say another unit, or choose another column"
        )
        raise BadTable(f"taken as milliseconds, the median frame would last {median:g} ms", remedy)
    if median > _LONGEST_TAKEN_MS or float(np.sum(frames)) > 1000 * _LONGEST_RUN_S:
        raise BadTable(
            f"the median frame would last {median / 1000:,.0f} s",
            "If the column holds timestamps, take it as timestamps; else say another unit or choose another column",
        )


def _from_timestamps(values: Floats, unit: str, first_row: int) -> Floats:
    bad = np.flatnonzero(~np.isfinite(values))
    if len(bad):
        raise BadTable(
            "the timestamp is missing or not a number", "Correct or delete that row", first_row + int(bad[0])
        )
    try:
        return frame_times_of(values, UNITS_MS[unit])
    except BadFrames as error:
        row = first_row + error.positions[0] if error.positions else None
        raise BadTable(
            "the timestamp does not come after the one before it", "Correct or delete that row and try again", row
        ) from None


def _from_lengths(values: Floats, unit: str, first_row: int) -> Floats:
    try:
        return checked_frame_times(values if unit == "ms" else values * UNITS_MS[unit])
    except BadFrames as error:
        at = error.positions[0] if error.positions else 0
        value = values[at] if len(values) else np.nan
        problem = "the value is missing" if np.isnan(value) else f"a frame time of {value:g} is not possible"
        raise BadTable(problem, "It must be a number above 0; correct or delete that row", first_row + at) from None
