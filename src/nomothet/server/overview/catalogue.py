"""What is known beforehand: parts, settings, and every vocabulary that the screens offer, each from its one place."""

from dataclasses import dataclass
from typing import Any

from nomothet.core.margins import DIFFERENCE_MARGINS
from nomothet.core.parts import KINDS, ORIGINS, PRICE_BASES, SINGLE, SOURCES
from nomothet.core.quantities import Spec
from nomothet.core.readings import READING_METHODS, usual_half_widths
from nomothet.core.sensors import SENSORS
from nomothet.formats.words import (
    DOUBTS,
    FRAME_METRICS,
    GRADES,
    IMPRESSIONS,
    LOW_DEFINITIONS,
    OUTCOMES,
    PAIR_KINDS,
    SPANS,
)
from nomothet.server.workloads.models import Kind


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
    # Whether a system may have several of it.
    several: bool
    attributes: list[SpecShape]


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
class ReadingMethodSpec:
    """A way of taking a reading, with the half-width that it usually has, by unit; "" is for any other unit."""

    name: str
    usual: dict[str, float]


@dataclass(frozen=True)
class CatalogueShape:
    """What is known: kinds, units, bounds and choices of parts and settings, and the vocabularies of a pass."""

    kinds: list[KindShape]
    sources: list[str]
    origins: list[str]
    price_bases: list[str]
    # The vocabularies of recording and comparing, each in one place.
    low_definitions: dict[str, str]
    margins: list[MarginShape]
    frame_metrics: list[MetricShape]
    sensors: list[SensorShape]
    reading_methods: list[ReadingMethodSpec]
    spans: list[str]
    impressions: list[str]
    grades: list[str]
    pair_kinds: dict[str, str]
    doubts: list[str]
    outcomes: dict[str, str]
    workload_kinds: dict[str, str]


def catalogue() -> CatalogueShape:
    """All of it; nothing in it is asked of the database."""
    return CatalogueShape(
        kinds=[
            KindShape(
                kind.key, kind.label, kind.opens, kind.key not in SINGLE, [_spec(spec) for spec in kind.attributes]
            )
            for kind in KINDS.values()
        ],
        sources=list(SOURCES),
        origins=list(ORIGINS),
        price_bases=list(PRICE_BASES),
        low_definitions={str(key): words for key, words in LOW_DEFINITIONS.items()},
        margins=[MarginShape(key, unit, usual) for key, (unit, usual) in DIFFERENCE_MARGINS.items()],
        frame_metrics=[MetricShape(one.key, one.label, one.unit, one.direction) for one in FRAME_METRICS.values()],
        sensors=[SensorShape(key, unit) for key, unit in {one.key: one.unit for one in SENSORS}.items()],
        reading_methods=[ReadingMethodSpec(name, dict(usual_half_widths(name))) for name in READING_METHODS],
        spans=list(SPANS),
        impressions=list(IMPRESSIONS),
        grades=list(GRADES),
        pair_kinds=dict(PAIR_KINDS),
        doubts=list(DOUBTS),
        outcomes=dict(OUTCOMES),
        workload_kinds={one.value: str(one.label) for one in Kind},
    )


def _spec(spec: Spec) -> SpecShape:
    return SpecShape(spec.key, spec.label, spec.kind, spec.unit, spec.low, spec.high, list(spec.choices))
