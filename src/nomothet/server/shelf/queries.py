"""The shelf as the screens show it."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from nomothet.core.margins import DIFFERENCE_MARGINS
from nomothet.core.memory import first_word_latency_ns, peak_bandwidth_gbs
from nomothet.core.parts import KINDS, ORIGINS, PRICE_BASES, SOURCES
from nomothet.core.quantities import Spec
from nomothet.core.readings import READING_METHODS
from nomothet.core.sensors import SENSORS
from nomothet.core.settings import CATALOGUE, GROUPS
from nomothet.formats.words import FRAME_METRICS, GRADES, IMPRESSIONS, LOW_DEFINITIONS, PAIR_KINDS, SPANS
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


@dataclass(frozen=True)
class SpecShape:
    key: str
    label: str
    kind: str
    unit: str
    low: float | None
    high: float | None
    choices: list[Any]


@dataclass(frozen=True)
class KindShape:
    key: str
    label: str
    opens: bool
    attributes: list[SpecShape]


@dataclass(frozen=True)
class SettingSpecShape:
    spec: SpecShape
    group: str
    where: str


@dataclass(frozen=True)
class MarginShape:
    """A quantity on the difference scale, the unit of its margin, and the margin where a brief says no other."""

    key: str
    unit: str
    usual: float


@dataclass(frozen=True)
class MetricShape:
    """A figure that is made of frames."""

    key: str
    label: str
    unit: str
    direction: str


@dataclass(frozen=True)
class SensorShape:
    """A sensor that is known, in the unit in which it is looked at."""

    key: str
    unit: str


@dataclass(frozen=True)
class CatalogueShape:
    """What is known: kinds, units, bounds and choices of parts and settings, and the vocabularies of a pass."""

    kinds: list[KindShape]
    settings: list[SettingSpecShape]
    groups: dict[str, str]
    sources: list[str]
    origins: list[str]
    price_bases: list[str]
    # The vocabularies of recording and comparing, each in one place.
    low_definitions: dict[str, str]
    margins: list[MarginShape]
    frame_metrics: list[MetricShape]
    sensors: list[SensorShape]
    reading_methods: list[str]
    spans: list[str]
    impressions: list[str]
    grades: list[str]
    pair_kinds: dict[str, str]


def parts(archived: bool = False) -> list[PartShape]:
    """All parts, by kind and name; four queries whatever their number."""
    found = Part.objects.prefetch_related("prices", "fittings__configuration")
    return [part_shape(part) for part in (found if archived else found.filter(archived_at=None))]


def part_shape(part: Part) -> PartShape:
    fitted = {f"{fit.configuration.name}" for fit in part.fittings.all()}
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


def catalogue() -> CatalogueShape:
    return CatalogueShape(
        kinds=[
            KindShape(kind.key, kind.label, kind.opens, [_spec(spec) for spec in kind.attributes])
            for kind in KINDS.values()
        ],
        settings=[SettingSpecShape(_spec(one.spec), one.group, one.where) for one in CATALOGUE.values()],
        groups=GROUPS,
        sources=list(SOURCES),
        origins=list(ORIGINS),
        price_bases=list(PRICE_BASES),
        low_definitions={str(key): words for key, words in LOW_DEFINITIONS.items()},
        margins=[MarginShape(key, unit, usual) for key, (unit, usual) in DIFFERENCE_MARGINS.items()],
        frame_metrics=[MetricShape(one.key, one.label, one.unit, one.direction) for one in FRAME_METRICS.values()],
        sensors=[SensorShape(key, unit) for key, unit in {one.key: one.unit for one in SENSORS}.items()],
        reading_methods=list(READING_METHODS),
        spans=list(SPANS),
        impressions=list(IMPRESSIONS),
        grades=list(GRADES),
        pair_kinds=dict(PAIR_KINDS),
    )


def _spec(spec: Spec) -> SpecShape:
    return SpecShape(spec.key, spec.label, spec.kind, spec.unit, spec.low, spec.high, list(spec.choices))


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
