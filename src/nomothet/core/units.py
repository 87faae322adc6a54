"""Units and their families: one table for everything that is typed, read by a sensor or brought in (section 18).

Sizes of memory go by 1024, rates of transfer by 1000, as the peaks of section 15 do.
"""

from dataclasses import dataclass
from typing import Final

# For each family: factor and offset that lead to its first unit, `first = value · factor + offset`.
_Family = dict[str, tuple[float, float]]


def _plain(**units: float) -> _Family:
    return {unit: (factor, 0.0) for unit, factor in units.items()}


_FAMILIES: Final[tuple[_Family, ...]] = (
    _plain(GB=1.0, GiB=1.0, MB=1 / 1024, MiB=1 / 1024, kB=1 / 1024**2, KB=1 / 1024**2, KiB=1 / 1024**2,
           B=1 / 1024**3, TB=1024.0, TiB=1024.0),
    _plain(MHz=1.0, GHz=1000.0, kHz=1e-3, Hz=1e-6),
    _plain(W=1.0, kW=1000.0, mW=1e-3),
    _plain(V=1.0, mV=1e-3),
    _plain(s=1.0, ms=1e-3, us=1e-6, µs=1e-6, ns=1e-9, min=60.0, h=3600.0),
    _plain(mm=1.0, cm=10.0, m=1000.0),
    {"MT/s": (1.0, 0.0), "GT/s": (1000.0, 0.0)},
    {"GB/s": (1.0, 0.0), "MB/s": (1e-3, 0.0), "kB/s": (1e-6, 0.0), "KB/s": (1e-6, 0.0), "B/s": (1e-9, 0.0)},
    _plain(J=1.0, kJ=1000.0, Wh=3600.0, kWh=3.6e6),
    {"fps": (1.0, 0.0), "Hz": (1.0, 0.0), "1/s": (1.0, 0.0)},
    {"1/min": (1.0, 0.0), "rpm": (1.0, 0.0)},
    {"°C": (1.0, 0.0), "°F": (5 / 9, -160 / 9), "K": (1.0, -273.15)},
    _plain(points=1.0, pts=1.0),
    {"dB(A)": (1.0, 0.0), "dBA": (1.0, 0.0)},
    {"%": (1.0, 0.0)},
)  # fmt: skip

# How people and logs write units; the spelling of the table comes first, so that "mW" is never "MW".
_SPELLINGS: Final[dict[str, str]] = {
    "c": "°C", "°c": "°C", "degc": "°C", "deg c": "°C", "celsius": "°C", "℃": "°C",
    "f": "°F", "°f": "°F", "degf": "°F", "fahrenheit": "°F", "kelvin": "K",
    "pct": "%", "percent": "%", "per cent": "%",
    "mhz": "MHz", "ghz": "GHz", "khz": "kHz", "hz": "Hz",
    "w": "W", "watt": "W", "watts": "W", "mw": "mW", "kw": "kW", "v": "V", "volt": "V", "volts": "V", "mv": "mV",
    "b": "B", "bytes": "B", "kb": "kB", "mb": "MB", "gb": "GB", "tb": "TB", "kib": "KiB", "mib": "MiB", "gib": "GiB",
    "kb/s": "kB/s", "mb/s": "MB/s", "gb/s": "GB/s", "mt/s": "MT/s", "gt/s": "GT/s",
    "sec": "s", "secs": "s", "second": "s", "seconds": "s", "msec": "ms", "milliseconds": "ms", "usec": "us",
    "microseconds": "us", "nanoseconds": "ns", "minutes": "min", "mins": "min", "hours": "h", "hrs": "h",
    "rpm": "1/min", "joule": "J", "joules": "J", "j": "J", "wh": "Wh", "kwh": "kWh",
    "db(a)": "dB(A)", "dba": "dB(A)", "db a": "dB(A)", "frames/s": "fps",
}  # fmt: skip


@dataclass(frozen=True)
class Conversion:
    """From one unit to another of its family: `wanted = value · factor + offset`."""

    factor: float
    offset: float = 0.0

    def of(self, value: float) -> float:
        return value * self.factor + self.offset


def conversion(unit: str, wanted: str) -> Conversion | None:
    """How a number in one unit becomes one in another; None across families.

    Examples
    --------
    >>> conversion("MB/s", "GB/s").of(2500.0), round(conversion("°F", "°C").of(212.0), 9)
    (2.5, 100.0)
    >>> conversion("W", "GB") is None
    True
    """
    if unit == wanted:
        return Conversion(1.0)
    for family in _FAMILIES:
        if unit in family and wanted in family:
            (factor, offset), (own, shift) = family[unit], family[wanted]
            return Conversion(factor / own, (offset - shift) / own)
    return None


def unit_factor(unit: str, wanted: str) -> float | None:
    """What a difference in one unit is multiplied with to be one in another; None across families.

    Examples
    --------
    >>> unit_factor("GHz", "MHz"), unit_factor("MB", "GB") == 1 / 1024, unit_factor("W", "GB")
    (1000.0, True, None)
    """
    found = conversion(unit, wanted)
    return None if found is None else found.factor


def is_unit(text: str) -> bool:
    """Whether a text is the name of a unit, in any spelling."""
    return any(text in family for family in _FAMILIES) or text.lower() in _SPELLINGS


def unit_named(text: str, wanted: str = "") -> str:
    """The unit that a text means; the text itself where it means none.

    Parameters
    ----------
    wanted : str, optional
        A unit of the family that is looked for; a spelling that leads elsewhere is then left alone.

    Examples
    --------
    >>> unit_named("Celsius"), unit_named("mW"), unit_named("C", "°C"), unit_named("c", "fps")
    ('°C', 'mW', '°C', 'c')
    """
    said = text.strip()
    if any(said in family for family in _FAMILIES) and (not wanted or conversion(said, wanted)):
        return said
    meant = _SPELLINGS.get(said.lower())
    if meant is None or (wanted and conversion(meant, wanted) is None):
        return said
    return meant
