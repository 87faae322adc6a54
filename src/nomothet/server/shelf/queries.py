"""The shelf as the screens show it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from django.db.models import QuerySet

from nomothet.core.memory import first_word_latency_ns, peak_bandwidth_gbs
from nomothet.core.parts import KINDS
from nomothet.server.shelf.models import Part, Price


@dataclass(frozen=True)
class AttributeShape:
    key: str
    label: str
    value: Any
    unit: str
    source: str


@dataclass(frozen=True)
class PriceShape:
    """What a part cost on a day; `euro` is the amount at the rate kept with it."""

    id: int
    amount: float
    currency: str
    on: date
    basis: str
    euro_rate: float
    euro: float
    note: str


@dataclass(frozen=True)
class DerivedShape:
    """A figure that follows from the attributes, with its formula."""

    label: str
    value: float
    unit: str
    formula: str


@dataclass(frozen=True)
class PartShape:
    """A part; `version` is what If-Match wants, `used_in` names the configurations that it is fitted in."""

    id: int
    kind: str
    kind_label: str
    name: str
    attributes: list[AttributeShape]
    derived: list[DerivedShape]
    origin: str
    origin_note: str
    note: str
    archived_at: datetime | None
    version: int
    prices: list[PriceShape]
    used_in: list[str]


def parts(archived: bool = False) -> list[PartShape]:
    """All parts, by kind and name; three queries whatever their number."""
    found = Part.objects.all() if archived else Part.objects.filter(archived_at=None)
    fitted = _fitted(found)
    return [_shape(part, fitted.get(part.pk, ())) for part in found.prefetch_related("prices")]


def part_shape(part: Part) -> PartShape:
    return _shape(part, _fitted(Part.objects.filter(pk=part.pk)).get(part.pk, ()))


def _fitted(parts: QuerySet[Part]) -> Mapping[int, Iterable[str]]:
    """The names of the configurations that parts sit in, by part; one query."""
    found: dict[int, set[str]] = defaultdict(set)
    sits = parts.filter(fittings__isnull=False).order_by().values_list("pk", "fittings__configuration__name")
    for part, name in sits.distinct():
        found[part].add(name)
    return found


def _shape(part: Part, fitted: Iterable[str]) -> PartShape:
    return PartShape(
        id=part.pk,
        kind=part.kind,
        kind_label=KINDS[part.kind].label,
        name=part.name,
        attributes=[AttributeShape(**attribute) for attribute in part.attributes],
        derived=_derived(part),
        origin=part.origin,
        origin_note=part.origin_note,
        note=part.note,
        archived_at=part.archived_at,
        version=part.version,
        prices=[price_shape(price) for price in part.prices.all()],
        used_in=sorted(fitted),
    )


def price_shape(price: Price) -> PriceShape:
    euro = price.amount * price.euro_rate
    return PriceShape(
        price.pk,
        float(price.amount),
        price.currency,
        price.on,
        price.basis,
        float(price.euro_rate),
        float(euro),
        price.note,
    )


def latest_prices(parts: Iterable[Part]) -> dict[int, Price]:
    """The latest price of each part that has one."""
    latest: dict[int, Price] = {}
    for price in Price.objects.filter(part__in=[part.pk for part in parts]).order_by("on", "pk"):
        latest[price.part_id] = price
    return latest


def _derived(part: Part) -> list[DerivedShape]:
    """Method 15, for a kit by itself: what it could do on one channel and on two."""
    if part.kind != "memory_kit":
        return []
    rate, cas = part.value("rated_mts"), part.value("cas")
    modules, each = part.value("modules"), part.value("module_gb")
    found = []
    if isinstance(modules, int) and isinstance(each, int | float):
        found.append(DerivedShape("capacity", modules * each, "GB", "modules × capacity of a module"))
    if isinstance(rate, int | float):
        found.append(DerivedShape("peak on one channel", peak_bandwidth_gbs(rate, 1), "GB/s", "MT/s × 8 B"))
        if isinstance(modules, int) and modules > 1:
            found.append(DerivedShape("peak on two channels", peak_bandwidth_gbs(rate, 2), "GB/s", "MT/s × 8 B × 2"))
        found.append(DerivedShape("clock", rate / 2, "MHz", "MT/s ÷ 2: what some tools show"))
        if isinstance(cas, int | float):
            found.append(
                DerivedShape("first word after", first_word_latency_ns(cas, rate), "ns", "first timing × 2000 ÷ MT/s")
            )
    return found
