"""What differs beyond the factor between a cell's passes and the baseline's, as they were run (section 16)."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.core.comparable import AMBIENT, Comparability, comparability, merged, severity_of
from nomothet.core.errors import BadQuantity
from nomothet.core.settings import CATALOGUE, setting_of
from nomothet.server.reviews.models import Review

Fingerprints = Mapping[tuple[int, int], Sequence[Mapping[str, Any]]]

# What an inventory calls the parts that a factor can vary.
_PARTS = ("processor", "graphics", "memory", "board", "storage", "cooling", "logical processors")


@dataclass(frozen=True)
class UnlikeShape:
    """One thing in which a cell's passes differ from the baseline's: "blocks", "warns" or "notes"."""

    key: str
    words: str
    severity: str
    accepted: str


@dataclass(frozen=True)
class AlikeRow:
    """By column id, what differs from the baseline; and within a cell, from pass to pass."""

    test: int
    against: dict[str, list[UnlikeShape]]
    within: dict[str, list[UnlikeShape]]


def alike_rows(
    review: Review, accepted: Mapping[str, str], tests: Iterable[int], fingerprints: Fingerprints, baseline: int | None
) -> list[AlikeRow]:
    """Differences of every cell from the baseline's cell of the same test.

    Parameters
    ----------
    accepted : mapping of aspect to words
        The review's caveats.
    fingerprints : mapping of (test, column) to fingerprints of the kept passes
    """
    factors = _factors(review)
    by_test: dict[int, dict[int, dict[str, Any]]] = defaultdict(dict)
    within: dict[int, dict[str, list[UnlikeShape]]] = defaultdict(dict)
    for (test, column), found in fingerprints.items():
        by_test[test][column] = merged(found)
        inside = _inside(found, by_test[test][column], accepted)
        if inside:
            within[test][str(column)] = inside
    rows = []
    for test in tests:
        cells = by_test[test]
        base = cells.get(baseline) if baseline is not None else None
        against: dict[str, list[UnlikeShape]] = {}
        for column, own in cells.items():
            if base is None or column == baseline:
                continue
            unlike = shapes_of(comparability(base, own, factors=_varied(factors, base, own), accepted=accepted))
            if unlike:
                against[str(column)] = unlike
        if against or within[test]:
            rows.append(AlikeRow(test, against, within[test]))
    return rows


def _factors(review: Review) -> set[str]:
    return {aspect for factor in review.factors for aspect in factor["aspects"]}


def _varied(factors: set[str], base: Mapping[str, Any], own: Mapping[str, Any]) -> set[str]:
    """Entries that the factors vary: the aspects themselves, the parts they name, and all hardware of other systems."""
    varied = set(factors)
    for key in {*base, *own}:
        hardware = key in _PARTS
        if hardware and ("system" in factors or any(aspect.startswith(key.split()[0]) for aspect in factors)):
            varied.add(key)
        if "system" in factors and key != AMBIENT and (key in CATALOGUE or severity_of(key) == "notes"):
            varied.add(key)
    return varied


def _inside(
    found: Sequence[Mapping[str, Any]], together: Mapping[str, Any], accepted: Mapping[str, str]
) -> list[UnlikeShape]:
    """What changed from pass to pass within a cell."""
    changed = [key for key, value in together.items() if isinstance(value, list)]
    shapes = []
    for key in changed:
        values = " and ".join(str(value) for value in together[key])
        shapes.append(UnlikeShape(key, f"{_label(key)} was {values}", severity_of(key), accepted.get(key, "")))
    air = [float(one[AMBIENT]) for one in found if AMBIENT in one]
    if air and max(air) - min(air) > 3:
        shapes.append(UnlikeShape(AMBIENT, f"air from {min(air):g} to {max(air):g} °C", "notes", ""))
    return shapes


def shapes_of(found: Comparability) -> list[UnlikeShape]:
    """What differs in words, without the factor."""
    return [
        UnlikeShape(one.key, f"{_label(one.key)}: {_text(one.b)} against {_text(one.a)}", one.severity, one.accepted)
        for one in found.differences
        if not one.factor
    ]


def _label(key: str) -> str:
    if key == AMBIENT:
        return "air in °C"
    try:
        return setting_of(key).spec.label
    except BadQuantity:
        return key.replace("_", " ")


def _text(value: Any) -> str:
    if isinstance(value, list):
        return " and ".join(_text(one) for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)
