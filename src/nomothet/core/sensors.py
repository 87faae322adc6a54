"""Section 24 of the method: the sensors that are known, by what words and in what units, and what they can read."""

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from nomothet.core.quantities import LARGEST_QUANTITY
from nomothet.core.units import conversion, unit_named


@dataclass(frozen=True)
class Sensor:
    """A quantity that a machine can show.

    Attributes
    ----------
    key : str
        Its name, in sentences and over lanes.
    unit : str
        In which it is looked at; readings in other units of the family are converted.
    words : tuple of tuples of str
        A name speaks of it when it holds one word of each tuple; with none, the unit alone is enough.
    not_words : tuple of str
        Words that make it something else.
    possible : (float, float) or None
        Outside it the sensor, or its unit, is wrong.
    restless : bool
        Whether it never stands perfectly still while a machine works.
    sized : bool
        Whether a reading in % is a share of a size that is not known.
    """

    key: str
    unit: str
    words: tuple[tuple[str, ...], ...] = ()
    not_words: tuple[str, ...] = ()
    possible: tuple[float, float] | None = None
    restless: bool = False
    sized: bool = False


_GRAPHICS = ("graphics", "gpu", "igpu", "dgpu")
_PROCESSOR = ("processor", "cpu")
_MEMORY = ("memory", "mem", "ram", "vram")
_USE = ("use", "used", "usage", "load", "utilisation", "utilization", "util", "busy", "total", "occupancy")
_HEAT = ("temperature", "temp", "temps", "tctl", "tdie", "hotspot", "junction")
_CLOCK = ("clock", "clocks", "frequency", "freq")
_POWER = ("power", "draw", "watts", "consumption")

_C = (-20.0, 130.0)
_W = (0.0, 5000.0)
_MHZ = (1.0, 15_000.0)
_SHARE = (-0.5, 100.5)
_GB = (0.0, 100_000.0)

# Asked in this order; the first that fits name and unit counts.
SENSORS: Final[tuple[Sensor, ...]] = (
    Sensor("graphics memory used", "GB", (_GRAPHICS, _MEMORY), ("clock", "temperature", "temp", "controller", "bus"),
           _GB, sized=True),
    Sensor("graphics memory used", "GB", (("vram",),), ("clock", "temperature", "temp"), _GB, sized=True),
    Sensor("graphics temperature", "°C", (_GRAPHICS,), (), _C, restless=True),
    Sensor("graphics clock", "MHz", (_GRAPHICS,), (*_MEMORY, "shader", "video"), _MHZ),
    Sensor("graphics power", "W", (_GRAPHICS,), (), _W, restless=True),
    Sensor("graphics use", "%", (_GRAPHICS,), (*_MEMORY, "fan", "limit", "power", "bus", "video", "decode", "encode"),
           _SHARE),
    Sensor("room temperature", "°C", (("room", "ambient", "air"),), (), _C),
    Sensor("surface temperature", "°C", (("surface", "skin", "palm"),), (), _C, restless=True),
    Sensor("temperature", "°C", (), (), _C, restless=True),
    Sensor("wall power", "W", (("wall", "meter", "socket", "plug"),), (), _W, restless=True),
    Sensor("power", "W", (), (), _W, restless=True),
    Sensor("busiest core", "%", (("busiest", "max"), ("core", "thread", *_PROCESSOR)), (), _SHARE),
    Sensor("waiting for storage", "%", (("storage", "iowait"), ("waiting", "wait", "iowait")), (), _SHARE),
    Sensor("processor use", "%", (_PROCESSOR, _USE), (*_MEMORY, "core", "thread", "fan"), _SHARE),
    Sensor("major page faults", "1/s", (("fault", "faults"),), ("minor",), None),
    Sensor("swap used", "GB", (("swap", "pagefile"),), (), _GB),
    Sensor("memory used", "GB", (_MEMORY, _USE), (*_GRAPHICS, "available", "free"), _GB, sized=True),
    Sensor("storage used", "GB", (("storage", "disk", "drive", "ssd"), _USE), (), _GB, sized=True),
    Sensor("clock", "MHz", (_CLOCK,), (*_GRAPHICS, *_MEMORY, "bus", "base"), _MHZ),
    Sensor("fan", "1/min", (("fan", "fans", "pump"),), (), (0.0, 30_000.0)),
)  # fmt: skip

# What a name without a unit that fits is held to speak of.
_SPOKEN: Final[tuple[tuple[tuple[str, ...], str], ...]] = ((_HEAT, "temperature"), (_POWER, "power"))
# Of a quantity that is none of the above, by its unit.
_POSSIBLE: Final[dict[str, tuple[float, float]]] = {
    "%": _SHARE, "°C": _C, "W": _W, "MHz": _MHZ, "V": (0.0, 300.0), "GB": _GB, "1/min": (0.0, 30_000.0),
}  # fmt: skip
_RESTLESS: Final = ("°C", "W")


def readings(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """What a sensor read, with NaN for what no quantity can be: such a reading failed (section 3).

    >>> readings(np.array([61.0, 1e300])).tolist()
    [61.0, nan]
    """
    return np.where(np.abs(values) <= LARGEST_QUANTITY, values, np.nan)


def words_of(name: str) -> frozenset[str]:
    """The words of a name in small letters; "CPUTemp" and "cpu_temp" are two words each.

    >>> sorted(words_of("GPUMemoryUsed [MB]"))
    ['gpu', 'mb', 'memory', 'used']
    """
    parted = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", re.sub(r"([A-Z]+)([A-Z][a-z])", r"\1 \2", name))
    return frozenset(re.findall(r"[^\W\d_]+", parted.lower()))


@lru_cache(maxsize=4096)
def sensor_of(name: str, unit: str) -> Sensor | None:
    """The sensor that a lane of this name and unit is; None where it is none that is known.

    Examples
    --------
    >>> sensor_of("temperature package", "°C").key, sensor_of("core 3", "%")
    ('temperature', None)
    >>> sensor_of("graphics memory used", "MB").key, sensor_of("CPU Load", "%").key, sensor_of("infant", "1/min")
    ('graphics memory used', 'processor use', None)
    """
    said, own = words_of(name), unit_named(unit)
    return next((one for one in SENSORS if _speaks(one, said) and _fits(one, own)), None)


@lru_cache(maxsize=4096)
def misfit_of(name: str, unit: str) -> str | None:
    """The quantity that a name speaks of while its unit is of another family; None where nothing is amiss.

    Examples
    --------
    >>> misfit_of("memory used", "MHz"), misfit_of("temperature", "°C"), misfit_of("notes", "V")
    ('memory used', None, None)
    """
    if sensor_of(name, unit) is not None:
        return None
    said = words_of(name)
    named = next((one.key for one in SENSORS if one.words and len(one.words) > 1 and _speaks(one, said)), None)
    named = named or next((one.key for one in SENSORS if one.words and one.key == name.strip().lower()), None)
    return named or next((key for words, key in _SPOKEN if said & set(words)), None)


def unit_spoken_of(name: str, low: float, high: float) -> str:
    """The unit in which a reading without one is held to be, by its name and the values between which it stays.

    Empty where the name speaks of no sensor, or of one whose values these cannot be.

    Examples
    --------
    >>> unit_spoken_of("CPU Load", 2.0, 99.0), unit_spoken_of("GPU Clock", 300.0, 1905.0), unit_spoken_of("x", 0, 9)
    ('%', 'MHz', '')
    >>> unit_spoken_of("CPU Temp", 41.0, 88.0), unit_spoken_of("CPU Temp", 120.0, 208.0)
    ('°C', '°F')
    """
    said = words_of(name)
    if said & set(_HEAT):
        return next((unit for unit in ("°C", "°F") if _within(name, unit, low, high)), "")
    for words, unit in ((_USE, "%"), (_CLOCK, "MHz"), (_POWER, "W")):
        if said & set(words) and sensor_of(name, unit) is not None and _within(name, unit, low, high):
            return unit
    return ""


def _within(name: str, unit: str, low: float, high: float) -> bool:
    bounds = possible_range(name, unit)
    return bounds is None or bounds[0] <= low <= high <= bounds[1]


def possible_range(name: str, unit: str) -> tuple[float, float] | None:
    """What a sensor of this name can read, in the unit given; None where nothing is known."""
    sensor = sensor_of(name, unit)
    found = sensor.possible if sensor and sensor.possible and not _is_share(sensor, unit) else None
    own = sensor.unit if sensor and found else unit
    if found is None:
        own = next((known for known in _POSSIBLE if conversion(unit_named(unit), known)), "")
        found = _POSSIBLE.get(own)
    turned = conversion(own, unit_named(unit)) if found else None
    return None if found is None or turned is None else (turned.of(found[0]), turned.of(found[1]))


def is_restless(unit: str) -> bool:
    """Whether readings in this unit never stand perfectly still while a machine works."""
    return any(conversion(unit_named(unit), own) is not None for own in _RESTLESS)


def _is_share(sensor: Sensor, unit: str) -> bool:
    return sensor.sized and unit_named(unit) == "%"


def _speaks(sensor: Sensor, said: frozenset[str]) -> bool:
    return all(said & set(one) for one in sensor.words) and not said & set(sensor.not_words)


def _fits(sensor: Sensor, unit: str) -> bool:
    return conversion(unit, sensor.unit) is not None or (sensor.sized and unit == "%")
