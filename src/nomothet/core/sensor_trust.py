"""Section 24 of the method: whether a sensor can be believed, by its own values."""

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.notes import Note, note
from nomothet.core.sensors import is_restless, possible_range

# So many samples before a standstill means anything, and the share of gaps that is told.
_ENOUGH = 40
_MOST_MISSING = 0.05


def sensor_doubts(values: Floats, unit: str, name: str = "") -> list[Note]:
    """Why a sensor is not to be trusted; nothing where it is.

    Parameters
    ----------
    values : (n,) array
        Samples in order, NaN where a reading failed.

    Examples
    --------
    >>> sensor_doubts(np.full(100, 61.0), "°C")
    [Note(code='stands_still', values={'value': 61.0, 'unit': '°C'})]
    """
    there = values[np.isfinite(values)]
    if not len(there):
        return [note("no_reading")] if len(values) else []
    doubts = []
    missing = len(values) - len(there)
    if missing > _MOST_MISSING * len(values):
        doubts.append(note("readings_missing", share=missing / len(values)))
    low, high = possible_range(name, unit) or (-np.inf, np.inf)
    wrong = there[(there < low) | (there > high)]
    if len(wrong):
        farthest = float(wrong[np.argmax(np.abs(wrong))])
        doubts.append(note("values_impossible", count=len(wrong), farthest=farthest, unit=unit))
    if is_restless(unit) and len(there) >= _ENOUGH and np.ptp(there) == 0:
        doubts.append(note("stands_still", value=float(there[0]), unit=unit))
    return doubts
