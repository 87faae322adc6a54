"""What is said of power, energy and prices (method 14)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list
from nomothet.words.numbers import figure

_KILO = 1000.0
_WH = 3600.0
# From a tenth of a watt-hour on an energy is told in these.
_LEAST_WH = 0.1
_MOST_NAMED = 3


def energy_words(joules: float) -> str:
    """An energy in the unit that people know it by.

    >>> energy_words(42.0), energy_words(900.0), energy_words(7_200_000.0)
    ('42.0 J', '0.250 Wh', '2.00 kWh')
    """
    if abs(joules) < _LEAST_WH * _WH:
        return f"{figure(joules)} J"
    hours = joules / _WH
    return f"{figure(hours / _KILO)} kWh" if abs(hours) >= _KILO else f"{figure(hours)} Wh"


def euro(amount: float) -> str:
    """An amount of money, whole where it is large.

    >>> euro(489.0), euro(34.9)
    ('489 €', '34.90 €')
    """
    return f"{amount:.0f} €" if amount >= 100 or amount == int(amount) else f"{amount:.2f} €"


def _no_rate() -> str:
    return "this test has no rate, score or time that power could be held against"


def _no_power() -> str:
    return "no power was recorded; give the bench a sensor, or read watts off a meter and type them in"


def _no_work() -> str:
    return "no pass has both a figure and its power"


def _no_work_over_idle() -> str:
    return "with idle taken off nothing is left to divide by"


def _no_price(missing: Sequence[str], basis: str) -> str:
    named = [*missing[:_MOST_NAMED], *([f"{len(missing) - _MOST_NAMED} more"] if len(missing) > _MOST_NAMED else [])]
    return (
        f"no {basis} price of {and_list(named)}; note it on the shelf" if missing else "no price; note it on the shelf"
    )


SENTENCES: Mapping[str, Callable[..., str]] = {
    "economy_no_rate": _no_rate,
    "no_power": _no_power,
    "no_work": _no_work,
    "no_work_over_idle": _no_work_over_idle,
    "no_price": _no_price,
}
