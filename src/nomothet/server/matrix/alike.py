"""What differs beyond the factor between a cell's passes and the baseline's, as they were run (section 16)."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from nomothet.core.comparable import AMBIENT, Comparability, comparability, merged, severity_of
from nomothet.core.settings import goes_with_system, is_known
from nomothet.server.matrix.lens import Context, Lens, LensResults
from nomothet.server.reviews.models import Review, Test
from nomothet.words.fingerprints import label_of, text_of_value

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
    """By column id, what differs from the baseline."""

    test: int
    against: dict[str, list[UnlikeShape]]


def _build(context: Context, test: Test, _: LensResults) -> AlikeRow:
    """Differences of every cell from the baseline's cell of the same test."""
    review, baseline = context.review, context.shared.baseline
    factors = _factors(review)
    accepted = {caveat.aspect: caveat.words for caveat in review.caveats.all()}
    cells = {
        # The difference table tells of the parts that configurations claim.
        column: merged(
            {key: value for key, value in one.fingerprint.items() if not key.startswith("part:")} for one in found
        )
        for (of, column), found in context.evidence.looked_at.items()
        if of == test.pk
    }
    base = cells.get(baseline) if baseline is not None else None
    against: dict[str, list[UnlikeShape]] = {}
    for column, own in cells.items():
        if base is None or column == baseline:
            continue
        unlike = shapes_of(comparability(base, own, factors=varied(factors, base, own), accepted=accepted))
        if unlike:
            against[str(column)] = unlike
    return AlikeRow(test.pk, against)


def shapes_of(found: Comparability) -> list[UnlikeShape]:
    """What differs in words, without the factor."""
    return [
        UnlikeShape(
            one.key,
            f"{label_of(one.key)}: {text_of_value(one.b)} against {text_of_value(one.a)}",
            one.severity,
            one.accepted,
        )
        for one in found.differences
        if not one.factor
    ]


def _factors(review: Review) -> set[str]:
    return {aspect for factor in review.factors for aspect in factor["aspects"]}


def varied(factors: set[str], base: Mapping[str, Any], own: Mapping[str, Any]) -> set[str]:
    """Entries that the factors vary: the aspects themselves, the parts they name, and all hardware of other systems."""
    found = set(factors)
    for key in {*base, *own}:
        hardware = key in _PARTS
        if hardware and ("system" in factors or any(aspect.startswith(key.split()[0]) for aspect in factors)):
            found.add(key)
        goes = goes_with_system(key) if is_known(key) else severity_of(key) == "notes"
        if "system" in factors and key != AMBIENT and goes:
            found.add(key)
    return found


ALIKE = Lens("alike", AlikeRow, _build)
