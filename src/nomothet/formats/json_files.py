"""JSON as it comes from outside: read strictly, and what is wrong in it told by its place."""

import json
import math
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from nomothet.formats.errors import FormatError

T = TypeVar("T")

# Squares and fourth powers of these are still floats.
SMALLEST, LARGEST = 1e-60, 1e60

_PLACE = re.compile(r"^(?P<what>.*?)(?: - at `\$(?P<path>.*)`)?$", re.S)
_STEP = re.compile(r"\.([^.\[]+)|\[(\d+)\]|\[\.\.\.\]")


def read_json(path: Path) -> Any:
    """What a JSON file (RFC 8259) holds.

    Raises
    ------
    FormatError
        When it is not UTF-8, not JSON, holds NaN or Infinity, or names one key of an object twice.
    """
    try:
        return json.loads(path.read_text(encoding="utf-8-sig"), object_pairs_hook=_once, parse_constant=_no_number)
    except json.JSONDecodeError as error:
        raise FormatError(f"{path.name}, line {error.lineno}: not JSON: {error.msg}") from None
    except UnicodeDecodeError:
        raise FormatError(f"{path.name} is not UTF-8 text; save it as JSON in UTF-8") from None
    except RecursionError:
        raise FormatError(f"{path.name} is nested too deeply") from None


def checked(data: object, wanted: type[T], place: str = "") -> T:
    """Plain data as the type that is wanted: unknown keys, other types and numbers that are not finite are refused.

    Parameters
    ----------
    place : str
        Where the data stands in the whole, for messages.

    Raises
    ------
    FormatError
        Names the place and what is wrong there.

    Examples
    --------
    >>> checked([1, None], list[float], '"values"')
    Traceback (most recent call last):
    nomothet.formats.errors.FormatError: "values", entry 2: expected `float`, got `null`
    """
    finite(data, place)
    try:
        return msgspec.convert(data, wanted, strict=True)
    except msgspec.ValidationError as error:
        found = _PLACE.match(str(error))
        assert found is not None
        where = ", ".join(filter(None, [place, _path(found["path"] or "")]))
        what = found["what"]
        raise FormatError(f"{where}: {what[:1].lower()}{what[1:]}" if where else what) from None


def named(data: object, wanted: type[T], place: str) -> dict[str, T]:
    """An object whose keys are names, each with a value of the type wanted.

    Raises
    ------
    FormatError
        Names the entry at fault.
    """
    if not isinstance(data, Mapping):
        raise FormatError(f'"{place}" must be an object')
    return {str(name): checked(value, wanted, f'"{place}", {str(name)!r}') for name, value in data.items()}


def finite(data: object, place: str = "") -> None:
    """Refuse numbers that are not finite, or of a size that no quantity has, at any depth.

    Raises
    ------
    FormatError
    """
    if isinstance(data, int | float) and not isinstance(data, bool):
        if isinstance(data, float) and not math.isfinite(data):
            raise FormatError(f"{place or 'the file'}: {data} is no finite number")
        if data and not SMALLEST <= abs(data) <= LARGEST:
            bounds = f"{SMALLEST:g} to {LARGEST:g} in size, or 0"
            raise FormatError(
                f"{place or 'the file'}: a number of this size cannot be computed with; it must be {bounds}"
            )
    if isinstance(data, Mapping):
        for key, value in data.items():
            finite(value, ", ".join(filter(None, [place, f'"{key}"'])))
    elif isinstance(data, list):
        for at, value in enumerate(data, start=1):
            finite(value, ", ".join(filter(None, [place, f"entry {at}"])))


def _path(path: str) -> str:
    steps = [f'"{key}"' if key else f"entry {int(at) + 1}" if at else "" for key, at in _STEP.findall(path)]
    return ", ".join(filter(None, steps))


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise FormatError(f'"{key}" stands twice in one object; each name can be used once')
        found[key] = value
    return found


def _no_number(text: str) -> Any:
    raise FormatError(f"{text} is no number that JSON knows; use null for a reading that failed")
