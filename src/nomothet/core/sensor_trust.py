"""Section 24 of the method: whether a sensor can be believed, by its own values."""

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.sensors import is_restless, possible_range

# So many samples before a standstill means anything, and the share of gaps that is told.
_ENOUGH = 40
_MOST_MISSING = 0.05


def sensor_doubts(values: Floats, unit: str, name: str = "") -> list[str]:
    """Why a sensor is not to be trusted, in words; nothing where it is.

    Parameters
    ----------
    values : (n,) array
        Samples in order, NaN where a reading failed.

    Examples
    --------
    >>> sensor_doubts(np.full(100, 61.0), "°C")
    ['stands still at 61 °C']
    >>> sensor_doubts(np.array([50.0, 140.0]), "%")
    ['1 value cannot be: 140 %']
    """
    there = values[np.isfinite(values)]
    if not len(there):
        return ["no reading at all"] if len(values) else []
    doubts = []
    missing = 1 - len(there) / len(values)
    if missing > _MOST_MISSING:
        doubts.append(f"{100 * missing:.0f} % of its readings are missing")
    low, high = possible_range(name, unit) or (-np.inf, np.inf)
    wrong = there[(there < low) | (there > high)]
    if len(wrong):
        counted = "1 value cannot be" if len(wrong) == 1 else f"{len(wrong)} values cannot be"
        doubts.append(f"{counted}: {wrong[np.argmax(np.abs(wrong))]:g} {unit}")
    if is_restless(unit) and len(there) >= _ENOUGH and np.ptp(there) == 0:
        doubts.append(f"stands still at {there[0]:g} {unit}")
    return doubts
