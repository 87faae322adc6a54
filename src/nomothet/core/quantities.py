"""Quantities with their units: read from text, converted, and held within what is possible (section 20)."""

import re
from dataclasses import dataclass
from typing import Literal

from nomothet.core.errors import BadQuantity
from nomothet.core.units import conversion, unit_named

Kind = Literal["number", "whole", "text", "choice", "yes_no"]
VALUE_KINDS: tuple[Kind, ...] = ("number", "whole", "text", "choice", "yes_no")
Value = str | int | float | bool

# Anything larger is a slip or a broken sensor, whatever the unit; so is anything closer to 0 than its inverse.
LARGEST_QUANTITY = 1e15

_NUMBER = re.compile(r"\s*([-+−]?\d+(?:\.\d+)?)\s*(\S.*)?")
_WHOLE = re.compile(r"0|[1-9]\d{0,8}")
_YES, _NO = {"yes", "true", "on", "1"}, {"no", "false", "off", "0"}


def has_size(value: float) -> bool:
    """Whether a number has a size that a quantity can have (section 3).

    >>> has_size(0.0), has_size(94.1), has_size(1e300), has_size(1e-300)
    (True, True, False, False)
    """
    return value == 0 or 1 / LARGEST_QUANTITY <= abs(value) <= LARGEST_QUANTITY


@dataclass(frozen=True)
class Spec:
    """What a value may be: its kind, unit, bounds and choices. Bounds are meant to catch a wrong unit, not rarity."""

    key: str
    label: str
    kind: Kind = "text"
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[Value, ...] = ()


def read_value(spec: Spec, given: object) -> Value:
    """Read a value for a spec; numbers may carry a unit of the same family and are converted.

    Parameters
    ----------
    given : object
        A number, a yes or no, or text such as ``"5600 MT/s"`` or ``"16384 MB"``.

    Raises
    ------
    BadQuantity
        When the value is of another kind, another unit, out of bounds or not among the choices; says what would do.

    Examples
    --------
    >>> read_value(Spec("capacity_gb", "capacity", "number", "GB", 0.1, 4096), "16384 MB")
    16.0
    """
    if spec.kind == "yes_no":
        return _yes_no(spec, given)
    if spec.kind in ("number", "whole"):
        return _number(spec, given)
    text = _choice(spec, given) if spec.choices else given
    if isinstance(text, str):
        text = text.strip()
        if not text:
            raise BadQuantity(spec.key, f"{spec.label} is empty; give a value or leave it out.")
        if len(text) > 200:
            raise BadQuantity(spec.key, f"{spec.label} is longer than 200 characters.")
        if _WHOLE.fullmatch(text) and not spec.choices:
            # Typed or pasted, a profile "2" is the profile 2 that a file gives as a number.
            return int(text)
    if not isinstance(text, str | int | float | bool):
        raise BadQuantity(spec.key, f"{spec.label} must be text or a number.")
    return text


def text_of(spec: Spec, value: Value | None) -> str:
    """A value as it is shown, with its unit."""
    if value is None:
        return "not set"
    if isinstance(value, bool):
        return "yes" if value else "no"
    number = f"{value:.6g}" if isinstance(value, float) else str(value)
    return f"{number} {spec.unit}".strip() if isinstance(value, int | float) else number


def _yes_no(spec: Spec, given: object) -> bool:
    if isinstance(given, bool):
        return given
    word = str(given).strip().lower()
    if word in _YES | _NO:
        return word in _YES
    raise BadQuantity(spec.key, f"{spec.label} is yes or no, not {given!r}.")


def _choice(spec: Spec, given: object) -> object:
    for choice in spec.choices:
        if given == choice or str(given).strip() == str(choice):
            return choice
    allowed = ", ".join(str(choice) for choice in spec.choices)
    raise BadQuantity(spec.key, f"{spec.label} cannot be {given!r}; it is one of {allowed}.")


def _number(spec: Spec, given: object) -> int | float:
    if isinstance(given, bool) or not isinstance(given, int | float | str):
        raise BadQuantity(spec.key, f"{spec.label} must be a number{_in_unit(spec)}.")
    number = _from_text(spec, given) if isinstance(given, str) else float(given)
    if not abs(number) < LARGEST_QUANTITY:
        raise BadQuantity(spec.key, f"{spec.label} must be a finite number{_in_unit(spec)}.")
    if (spec.low is not None and number < spec.low) or (spec.high is not None and number > spec.high):
        low = "" if spec.low is None else f"{spec.low:g}"
        high = "" if spec.high is None else f"{spec.high:g}"
        bounds = f"{low} to {high}" if low and high else f"{low} or more" if low else f"at most {high}"
        raise BadQuantity(
            spec.key,
            f"{spec.label} of {number:g} {spec.unit} cannot be: it is {bounds} {spec.unit}".rstrip()
            + ". Is it in another unit?",
        )
    if spec.kind == "whole":
        if number != int(number):
            raise BadQuantity(spec.key, f"{spec.label} is a whole number, not {number:g}.")
        return int(number)
    if spec.choices:
        _choice(spec, given)
    return int(given) if isinstance(given, int) else number


def _from_text(spec: Spec, text: str) -> float:
    found = _NUMBER.fullmatch(text)
    if found is None:
        raise BadQuantity(spec.key, f"{spec.label} of {text!r} is not a number{_in_unit(spec)}.")
    number, unit = float(found[1].replace("−", "-")), (found[2] or "").strip()
    if not unit:
        return number
    turned = conversion(unit_named(unit, spec.unit), spec.unit)
    clock = conversion(unit_named(unit), "MHz") if spec.unit == "MT/s" else None
    if clock is not None:
        # A tool that shows the clock shows half of what is transferred (section 15).
        mhz = clock.of(number)
        raise BadQuantity(
            spec.key,
            f"{mhz:g} MHz is a clock. Memory that transfers twice a clock has a rate of {2 * mhz:g} MT/s; type that, "
            f"or {mhz:g} MT/s if it is the rate.",
        )
    if turned is None:
        raise BadQuantity(spec.key, f"{spec.label} is given in {spec.unit or 'plain numbers'}, not in {unit}.")
    return turned.of(number)


def _in_unit(spec: Spec) -> str:
    return f" in {spec.unit}" if spec.unit else ""
