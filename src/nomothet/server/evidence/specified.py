"""What parts and settings specify for the configurations of a review, against what its passes showed (section 19)."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from statistics import median
from typing import Any

from nomothet.core.memory import transfer_rate
from nomothet.core.parts import KINDS
from nomothet.core.quantities import Value
from nomothet.core.settings import setting_of
from nomothet.core.specified import Kind, specified_gap
from nomothet.server.analysis.models import Analysis
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.systems.states import ConfigurationState, states
from nomothet.words.specified import gap_words

# Attributes of parts, the quantity that shows them, and whether they are to be reached or not to be exceeded.
_OF_PARTS: tuple[tuple[str, str, str, Kind], ...] = (
    ("processor", "max_clock_mhz", "clock", "reach"),
    ("processor", "power_w", "power", "limit"),
    ("processor", "limit_c", "temperature", "limit"),
    ("graphics", "clock_mhz", "graphics clock", "reach"),
    ("graphics", "power_w", "graphics power", "limit"),
    ("graphics", "memory_gb", "graphics memory there", "reach"),
    ("memory_kit", "rated_mts", "memory speed", "reach"),
)
_OF_SETTINGS: tuple[tuple[str, str, Kind], ...] = (
    ("power_limit_w", "power", "limit"),
    ("memory_mts", "memory speed", "reach"),
)


@dataclass(frozen=True)
class SpecifiedShape:
    """One thing that is specified for a configuration.

    `highest` came in `test`; `usual` is the median of the passes' medians; `gap` is in % of what is specified, of a
    temperature in K. Where nothing was measured they are null, and the verdict says so.
    """

    column: int
    what: str
    of: str
    unit: str
    specified: float
    source: str
    highest: float | None
    test: int | None
    usual: float | None
    gap: float | None
    verdict: str
    words: str
    passes: int


@dataclass(frozen=True)
class _Said:
    what: str
    of: str
    unit: str
    quantity: str
    kind: Kind
    value: float
    source: str


@dataclass(frozen=True)
class _Shown:
    test: int
    peak: float
    median: float


def specified(review: Review) -> list[SpecifiedShape]:
    """Every number that a part or a setting of a column promises and a pass could show, in the order of the columns."""
    columns = list(review.columns.select_related("configuration__system"))
    held = states([column.configuration for column in columns])
    shown = _shown(review)
    return [
        _shape(column.pk, said, shown[column.pk, said.quantity])
        for column in columns
        for said in _said(held[column.configuration_id])
    ]


def _said(state: ConfigurationState) -> Iterator[_Said]:
    # Of several of a kind, the sensors tell of the first.
    fitted = {fit.part.kind: fit.part for _, fit in sorted(state.fitted.items(), reverse=True)}
    for kind, attribute, quantity, sort in _OF_PARTS:
        part = fitted.get(kind)
        value = _number(part.value(attribute)) if part else None
        if part is not None and value is not None:
            spec = next(one for one in KINDS[kind].attributes if one.key == attribute)
            yield _Said(spec.label, part.name, spec.unit, quantity, sort, value, _source(part, attribute))
    for key, quantity, sort in _OF_SETTINGS:
        value = _number(state.settings.get(key))
        if value is not None:
            spec = setting_of(key).spec
            yield _Said(spec.label, "as set", spec.unit, quantity, sort, value, "set")


def _shown(review: Review) -> Mapping[tuple[int, str], list[_Shown]]:
    """What the kept passes of the review showed, by column and quantity; one query."""
    shown: dict[tuple[int, str], list[_Shown]] = defaultdict(list)
    kept = Analysis.objects.kept().filter(owner__test__review=review)
    rows = kept.values_list(
        "owner__column", "owner__test", "content__readings", "content__uses", "owner__environment__observed"
    )
    for column, test, readings, uses, observed in rows:
        for quantity, reading in (readings or {}).items():
            shown[column, quantity].append(_Shown(test, reading["peak"], reading["median"]))
        there = (uses or {}).get("graphics memory used", {}).get("capacity")
        if there:
            shown[column, "graphics memory there"].append(_Shown(test, there, there))
        rate = _number((observed or {}).get("memory_mts"))
        if rate is not None:
            shown[column, "memory speed"].append(_Shown(test, rate, rate))
    return shown


def _shape(column: int, said: _Said, shown: list[_Shown]) -> SpecifiedShape:
    told = (column, said.what, said.of, said.unit, said.value, said.source)
    if not shown:
        return SpecifiedShape(
            *told, None, None, None, None, "not measured", gap_words("not measured", None, said.unit), 0
        )
    highest = max(shown, key=lambda one: one.peak)
    peak, usual = highest.peak, median(one.median for one in shown)
    if said.quantity == "memory speed":
        # Some tools show the clock, which is half of the transfer rate (section 15).
        peak, usual = transfer_rate(peak, said.value).rate_mts, transfer_rate(usual, said.value).rate_mts
    gap = specified_gap(said.kind, said.value, peak, temperature=said.unit == "°C")
    return SpecifiedShape(
        *told, peak, highest.test, usual, gap.gap, gap.verdict, gap_words(gap.verdict, gap.gap, said.unit), len(shown)
    )


def _source(part: Part, attribute: str) -> str:
    found: Any = next(one for one in part.attributes if one["key"] == attribute)
    return str(found["source"])


def _number(value: Value | None) -> float | None:
    return float(value) if isinstance(value, int | float) and not isinstance(value, bool) and value > 0 else None
