"""Section 16 of the method: whether passes can be compared, by what is known of how each was run."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

Severity = Literal["blocks", "warns", "notes"]

AMBIENT = "ambient_c"
AMBIENT_TOLERANCE_C = 3.0
_BLOCKS = ("workload", "version", "setting:")
_WARNS = (
    "firmware",
    "bios",
    "driver",
    "operating system",
    "kernel",
    "memory speed",
    "memory_mts",
    "cooling",
    "fan",
    "power limit",
    "power_limit_w",
    "capture",
    "word size",
)
# Of the set and observed values, clocks and voltages change what is measured as well.
_WARNING_WORDS = ("clock", "mhz", "voltage", "mts")


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


def severity_of(key: str) -> Severity:
    """How much a difference in this entry of a fingerprint weighs.

    Examples
    --------
    >>> severity_of("version"), severity_of("graphics driver"), severity_of("background programs")
    ('blocks', 'warns', 'notes')
    """
    said = key.lower()
    if any(said == word or (word.endswith(":") and said.startswith(word)) for word in _BLOCKS):
        return "blocks"
    if any(word in said for word in (*_WARNS, *_WARNING_WORDS)):
        return "warns"
    return "notes"


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
        cooling, capture method and "ambient_c". An entry that only one side knows is no difference.
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
        Difference(key, a[key], b[key], severity_of(key), key in factors, words.get(key, ""))
        for key in a
        if key in b and _differ(key, a[key], b[key])
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
