"""What makes a kind of finding, and where a finding stands among the others."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import IntEnum

from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.shapes import FindingShape


class Use(IntEnum):
    """Of what use a finding is to the question, the most useful first."""

    AGAINST_EXPECTATION = 0
    WHOLE = 1
    FACTOR = 2
    SINGLE = 3
    CONDITION = 4
    PAIR = 5
    TIME = 6
    BLIND = 8
    OPEN = 9


@dataclass(frozen=True)
class Ranked:
    """A finding with its place: by use, then decided before undecided, then by size against the margin."""

    finding: FindingShape
    use: Use
    size: float = 0.0
    order: int = 0

    @property
    def place(self) -> tuple[int, int, float, int]:
        unsure = {"decided": 0, "warns": 1, "undecided": 2, "open": 3}[self.finding.sure]
        return self.use, unsure, -self.size, self.order


@dataclass(frozen=True)
class Kind:
    """A kind of finding: its key, what it is called, the section of the method, and how it is made.

    `offers` names what "draw another" can change about it.
    """

    key: str
    words: str
    section: str
    make: Callable[["Kind", Gathered], list[Ranked]]
    offers: tuple[str, ...] = ()
