"""How numbers are written in sentences: three significant figures, a true minus, differences with one decimal."""

import math
import re

from nomothet.core.units import is_unit

MINUS = "−"


def figure(value: float, digits: int = 3) -> str:
    """A value with so many significant figures, and no more decimals than it has sense.

    >>> figure(1234.5), figure(94.13), figure(-0.01234), figure(0)
    ('1234', '94.1', '−0.0123', '0')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else "—"
    size = math.floor(math.log10(abs(value)))
    decimals = min(6, max(0, digits - 1 - size))
    return f"{value:.{decimals}f}".replace("-", MINUS)


def compact(value: float) -> str:
    """A size or a count as it is said: whole where it is.

    >>> compact(16.0), compact(4.16), compact(1000.0)
    ('16', '4.16', '1000')
    """
    return f"{value:.0f}" if abs(value - round(value)) < 1e-9 else figure(value)


def with_unit(value: float, unit: str) -> str:
    """A value with its unit; what is counted is a whole number.

    >>> with_unit(8.0, "cameras"), with_unit(61.52, "°C"), with_unit(3.0, "1")
    ('8 cameras', '61.5 °C', '3.00')
    """
    return f"{figure(value)} {unit}" if unit and unit != "1" and not _is_whole(value, unit) else _plain(value, unit)


def difference_unit(unit: str) -> str:
    """The unit of a difference: between two temperatures it is the kelvin, so that °C always tells how warm it is.

    >>> difference_unit("°C"), difference_unit("W")
    ('K', 'W')
    """
    return "K" if unit == "°C" else unit


def signed(value: float, decimals: int = 1) -> str:
    """A change with its sign; one that rounds to nothing has none.

    >>> signed(-30.77), signed(10.0), signed(0.01), signed(7.1e26)
    ('−30.8', '+10.0', '0.0', 'over +1 million')
    """
    if abs(value) > 1e6:
        return "over +1 million" if value > 0 else f"under {MINUS}1 million"
    text = f"{abs(value):.{decimals}f}"
    if float(text) == 0:
        return text
    return ("+" if value > 0 else MINUS) + text


_BEFORE_UNIT = re.compile(r"(\d) (?=(?:%|×|[kMG]?W|[kMG]?B|fps|m?s|J|°C|K|M|€)(?![\w/]))")


def unbroken(sentence: str) -> str:
    """A sentence in which no line ends between a number and its unit.

    >>> unbroken("28 W draws 2 more")
    '28\\xa0W draws 2 more'
    """
    return _BEFORE_UNIT.sub("\\1\u00a0", sentence)


def _is_whole(value: float, unit: str) -> bool:
    return not is_unit(unit) and abs(value - round(value)) < 1e-6


def _plain(value: float, unit: str) -> str:
    return f"{round(value)} {unit}" if unit and unit != "1" else figure(value)
