"""Section 3 of the method: the margin of a quantity on the difference scale, in its own unit."""

from collections.abc import Mapping
from typing import Final

from nomothet.core.passes import Scale
from nomothet.core.units import conversion, is_unit

# For each quantity the unit in which its margin is given, and the margin where a brief says no other.
DIFFERENCE_MARGINS: Final[Mapping[str, tuple[str, float]]] = {
    "temperature": ("°C", 2.0),
    "noise": ("dB(A)", 2.0),
    "share": ("%", 3.0),
    "count": ("", 1.0),
}
_COUNTED: Final = ("", "1", "1/min", "1/s")


def quantity_of_unit(unit: str) -> str | None:
    """The quantity that a metric in this unit measures on the difference scale; None where it has no margin.

    What is in no unit that is known (errors, cameras, hitches) is counted.

    Examples
    --------
    >>> quantity_of_unit("°F"), quantity_of_unit("cameras"), quantity_of_unit("V")
    ('temperature', 'count', None)
    """
    if unit in _COUNTED or not is_unit(unit):
        return "count"
    return next((name for name, (own, _) in DIFFERENCE_MARGINS.items() if own and conversion(unit, own)), None)


def margin_of(unit: str, scale: Scale, ratio: float, margins: Mapping[str, float]) -> float | None:
    """The margin of a metric: a fraction on the ratio scale, else in the metric's unit; None where it has none.

    Parameters
    ----------
    ratio : float
        The review's margin for ratios, a fraction.
    margins : mapping of quantity to float
        The review's margins on the difference scale, where it has its own.

    Examples
    --------
    >>> margin_of("fps", "ratio", 0.03, {}), margin_of("dB(A)", "difference", 0.03, {"noise": 1.5})
    (0.03, 1.5)
    >>> margin_of("°F", "difference", 0.03, {})
    3.6
    """
    if scale == "ratio":
        return ratio
    quantity = quantity_of_unit(unit)
    if quantity is None:
        return None
    own, usual = DIFFERENCE_MARGINS[quantity]
    given = margins.get(quantity, usual)
    turned = conversion(own, unit) if own else None
    return round(given * turned.factor, 9) if turned else given
