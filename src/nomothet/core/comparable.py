"""Section 16 of the method: whether passes can be compared, by what is known of how each was run."""

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from nomothet.core.settings import CATALOGUE

Severity = Literal["blocks", "warns", "notes"]

AMBIENT = "ambient_c"
AMBIENT_TOLERANCE_C = 3.0
_BLOCKS = ("workload", "workload version", "version")
_SETTING = "setting:"
# A key warns when its words hold one of these, in this order and side by side.
_WARNS = (
    "processor", "graphics", "memory", "part",
    "firmware", "bios", "driver", "drivers", "operating system", "os build", "kernel", "word size", "word bits",
    "mts", "cas", "timing", "timings", "clock", "clocks", "mhz", "voltage", "voltages",
    "power limit", "limit w", "cooling", "fan", "capture", "program",
)  # fmt: skip
# Words that are no part of what is measured, though one above stands beside them.
_NOTES = ("background", "programs")


@dataclass(frozen=True)
class Difference:
    """One thing in which two fingerprints differ. `factor`: it may, as the review varies it. `accepted`: a caveat."""

    key: str
    a: Any
    b: Any
    severity: Severity
    factor: bool
    accepted: str


@dataclass(frozen=True)
class Comparability:
    """What differs between two passes; `verdict` is of what is neither the factor nor accepted."""

    differences: tuple[Difference, ...]

    @property
    def verdict(self) -> Literal["comparable", "with a note", "with a warning", "blocked"]:
        left = {one.severity for one in self.differences if not one.factor and not one.accepted}
        if any(one.severity == "blocks" and not one.factor for one in self.differences):
            return "blocked"
        return "with a warning" if "warns" in left else "with a note" if left else "comparable"

    def of(self, severity: Severity) -> list[Difference]:
        return [one for one in self.differences if one.severity == severity and not one.factor]


@lru_cache(maxsize=4096)
def severity_of(key: str) -> Severity:
    """How much a difference in this entry of a fingerprint weighs.

    Examples
    --------
    >>> severity_of("version"), severity_of("graphics driver"), severity_of("background programs")
    ('blocks', 'warns', 'notes')
    >>> severity_of("image")
    'warns'
    >>> severity_of("setting:threads"), severity_of("part:memory kit"), severity_of("infant mortality")
    ('blocks', 'warns', 'notes')
    """
    if key.lower().strip() in _BLOCKS or key.lower().startswith(_SETTING):
        return "blocks"
    if _touches_cooling(key) or _is_a_build(key):
        return "warns"
    if key.startswith("own."):
        # A team defines what it sets because it may matter.
        return "warns"
    said = f" {' '.join(re.findall(r'[a-z0-9]+', key.lower()))} "
    if any(f" {word} " in said for word in _NOTES):
        return "notes"
    return "warns" if any(f" {word} " in said for word in _WARNS) else "notes"


def _is_a_build(key: str) -> bool:
    """Settings that say which build of the operating system, or which image, a machine runs."""
    return key in CATALOGUE and CATALOGUE[key].group == "system"


def _touches_cooling(key: str) -> bool:
    """Settings of doors, filters and fans, and whether a run begins hot; not how warm the room is."""
    return key != AMBIENT and key in CATALOGUE and CATALOGUE[key].touches == "cooling"


def comparability(
    a: Mapping[str, Any],
    b: Mapping[str, Any],
    *,
    factors: Collection[str] = (),
    accepted: Mapping[str, str] | None = None,
) -> Comparability:
    """What differs between two fingerprints.

    Parameters
    ----------
    a, b : mapping of str to value
        "workload", "version", "setting:<key>", and what is known of system, drivers, firmware, limits, memory,
        cooling, capture method and "ambient_c". An entry that only one side knows is no difference; None is unknown.
    factors : collection of str
        Keys that the review varies on purpose.
    accepted : mapping of key to str, optional
        Caveats; an accepted difference is listed with its words. A block cannot be accepted away.

    Examples
    --------
    >>> found = comparability({"version": "2", "driver": "12"}, {"version": "2", "driver": "14"})
    >>> found.verdict, found.differences[0].key
    ('with a warning', 'driver')
    """
    words = accepted or {}
    differences = [
        Difference(key, own, b[key], severity_of(key), key in factors, words.get(key, ""))
        for key, own in a.items()
        if key in b and own != b[key] and own is not None and b[key] is not None and _differ(key, own, b[key])
    ]
    rank: dict[Severity, int] = {"blocks": 0, "warns": 1, "notes": 2}
    return Comparability(tuple(sorted(differences, key=lambda one: (one.factor, rank[one.severity]))))


def merged(fingerprints: Iterable[Mapping[str, Any]]) -> dict[str, Any]:
    """One fingerprint of several passes: an entry with several values is the list of them, ambient air its mean.

    >>> merged([{"driver": "12", "ambient_c": 21.0}, {"driver": "14", "ambient_c": 23.0}])
    {'driver': ['12', '14'], 'ambient_c': 22.0}
    """
    found: dict[str, list[Any]] = {}
    for fingerprint in fingerprints:
        for key, value in fingerprint.items():
            if value is None:
                continue
            values = found.setdefault(key, [])
            if key == AMBIENT or value not in values:
                values.append(value)
    return {
        key: sum(values) / len(values) if key == AMBIENT else values[0] if len(values) == 1 else values
        for key, values in found.items()
    }


def _differ(key: str, a: Any, b: Any) -> bool:
    if key == AMBIENT:
        return abs(float(a) - float(b)) > AMBIENT_TOLERANCE_C
    return bool(a != b)
