"""Kinds of parts and the attributes that each kind has (section 20)."""

import re
from dataclasses import dataclass

from nomothet.core.errors import BadQuantity
from nomothet.core.quantities import Spec, Value, read_value

SOURCES = ("label", "tool", "belief", "unknown")


@dataclass(frozen=True)
class PartKind:
    """A kind of part: where it sits, and what is asked of it. `opens`: changing it means opening the machine."""

    key: str
    label: str
    attributes: tuple[Spec, ...]
    opens: bool = True


def _n(key: str, label: str, unit: str, low: float, high: float) -> Spec:
    return Spec(key, label, "number", unit, low, high)


def _w(key: str, label: str, low: float, high: float, unit: str = "") -> Spec:
    return Spec(key, label, "whole", unit, low, high)


KINDS: dict[str, PartKind] = {
    kind.key: kind
    for kind in (
        PartKind("machine", "complete machine", (_n("volume_l", "volume", "l", 0.05, 500),), opens=False),
        PartKind(
            "processor",
            "processor",
            (
                _w("cores", "cores", 1, 1024),
                _w("threads", "threads", 1, 4096),
                _n("base_clock_mhz", "base clock", "MHz", 100, 10_000),
                _n("max_clock_mhz", "highest clock", "MHz", 100, 10_000),
                _n("cache_mb", "last cache", "MB", 0.1, 4096),
                _n("power_w", "rated power", "W", 0.5, 1500),
                _n("limit_c", "highest temperature", "°C", 40, 130),
            ),
        ),
        PartKind(
            "graphics",
            "graphics",
            (
                _n("memory_gb", "graphics memory", "GB", 0, 1024),
                Spec("borrows", "borrows main memory", "yes_no"),
                _n("clock_mhz", "clock", "MHz", 50, 10_000),
                _n("power_w", "rated power", "W", 0.5, 2000),
                Spec("connectors", "power connectors"),
                _n("length_mm", "length", "mm", 20, 600),
            ),
        ),
        PartKind(
            "memory_kit",
            "memory kit",
            (
                _w("modules", "modules", 1, 16),
                _n("module_gb", "capacity of a module", "GB", 0.125, 1024),
                _w("ranks", "ranks", 1, 8),
                _n("rated_mts", "rated speed", "MT/s", 100, 20_000),
                _w("cas", "first timing", 2, 120, "cycles"),
                _w("trcd", "second timing", 2, 200, "cycles"),
                _w("trp", "third timing", 2, 200, "cycles"),
                _n("voltage_v", "rated voltage", "V", 0.5, 2.5),
                Spec("ecc", "error correction", "yes_no"),
            ),
        ),
        PartKind(
            "board",
            "board",
            (_w("slots", "memory slots", 0, 64), Spec("form", "form"), Spec("firmware", "firmware as delivered")),
        ),
        PartKind(
            "storage",
            "storage",
            (
                _n("capacity_gb", "capacity", "GB", 1, 1_000_000),
                Spec("attachment", "attachment"),
                _n("read_gbs", "rated reading", "GB/s", 0.001, 1000),
            ),
        ),
        PartKind(
            "cooling",
            "cooling",
            (
                Spec("principle", "principle", "choice", choices=("passive", "air", "liquid")),
                _n("rated_w", "rated for", "W", 0.5, 3000),
                _n("noise_dba", "noise", "dB(A)", 0, 120),
            ),
        ),
        PartKind(
            "power_supply",
            "power supply",
            (_n("power_w", "rated power", "W", 1, 5000), Spec("connectors", "connectors")),
        ),
        PartKind(
            "case",
            "case",
            (_n("volume_l", "volume", "l", 0.1, 500), _n("card_mm", "room for a card", "mm", 0, 1000)),
        ),
        PartKind(
            "display",
            "display",
            (Spec("resolution", "resolution"), _n("refresh_hz", "refresh rate", "Hz", 1, 1000)),
            opens=False,
        ),
        PartKind(
            "os_build",
            "operating system build",
            (Spec("build", "build"), _w("word_bits", "word size", 8, 128, "bit")),
            opens=False,
        ),
    )
}
# A system has one of these; of every other kind it may have several.
SINGLE = ("machine", "board", "memory_kit", "case", "os_build")
MOST_OF_A_KIND = 16
_FURTHER = re.compile(r"(.+) ([1-9]\d?)")
PRICE_BASES = ("list", "street", "paid", "used", "lent")
# Where a thing comes from; nobody has said so of the first.
ORIGINS = ("not said", "bought", "used", "lent", "donated", "maker's", "ours")


def kind_of_place(place: str) -> str:
    """The kind of part that sits at a place: the second drive's place is "storage 2".

    >>> kind_of_place("storage 2"), kind_of_place("storage"), kind_of_place("board 2")
    ('storage', 'storage', 'board 2')
    """
    further = _FURTHER.fullmatch(place)
    if further is None or further[1] not in KINDS or further[1] in SINGLE:
        return place
    return further[1] if 2 <= int(further[2]) <= MOST_OF_A_KIND else place


def place_label(place: str) -> str:
    """A place as people call it.

    >>> place_label("power_supply 2"), place_label("lid")
    ('power supply 2', 'lid')
    """
    kind = kind_of_place(place)
    return KINDS[kind].label + place.removeprefix(kind) if kind in KINDS else place


@dataclass(frozen=True)
class Attribute:
    """One attribute of a part with where it is known from."""

    key: str
    label: str
    value: Value | None
    unit: str
    source: str


def read_attributes(kind: str, given: object) -> list[Attribute]:
    """Check the attributes of a part of a kind; ones of no schema are free and kept as text.

    Parameters
    ----------
    given : list of dict
        `{"key", "value", "source"}` each; a free attribute may also carry `label` and `unit`.

    Raises
    ------
    BadQuantity
        Names the attribute and what would do. A repeated key, an unknown source and an unknown kind are refused too.
    """
    if kind not in KINDS:
        raise BadQuantity("kind", f"{kind!r} is no kind of part; it is one of {', '.join(KINDS)}.")
    if not isinstance(given, list):
        raise BadQuantity("attributes", "Attributes are a list.")
    specs = {spec.key: spec for spec in KINDS[kind].attributes}
    read: dict[str, Attribute] = {}
    for one in given:
        if not isinstance(one, dict) or not str(one.get("key", "")).strip():
            raise BadQuantity("attributes", "Each attribute needs a key, a value and a source.")
        key = str(one["key"]).strip()
        if key in read:
            raise BadQuantity(key, f"{key} is given twice; keep one.")
        read[key] = _attribute(specs.get(key), key, one)
    return list(read.values())


def _attribute(spec: Spec | None, key: str, one: dict[str, object]) -> Attribute:
    source = str(one.get("source", "unknown"))
    if source not in SOURCES:
        raise BadQuantity(key, f"The source of {key} is one of {', '.join(SOURCES)}, not {source!r}.")
    free = Spec(key, str(one.get("label") or key.replace("_", " ")), unit=str(one.get("unit") or ""))
    known = spec or free
    value = one.get("value")
    if value is None or value == "":
        if source != "unknown":
            raise BadQuantity(key, f"{known.label} has no value; its source is then 'unknown'.")
        return Attribute(key, known.label, None, known.unit, source)
    if not isinstance(value, str | int | float | bool):
        raise BadQuantity(key, f"{known.label} must be text, a number, or yes or no.")
    return Attribute(key, known.label, read_value(known, value), known.unit, source)
