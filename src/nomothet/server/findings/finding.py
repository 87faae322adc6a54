"""What a finding is, whatever its kind."""

from collections.abc import Callable
from dataclasses import dataclass

from nomothet.server.findings.gathered import Gathered, Sure


@dataclass(frozen=True)
class FindingDot:
    """One test beside a band; `better` is its change in %, where more is better."""

    test: int
    name: str
    better: float
    told: str


@dataclass(frozen=True)
class FindingBand:
    """A configuration against another, as a mark where better is to the right; its ends are None without noise."""

    column: int
    label: str
    better: float
    low: float | None
    high: float | None
    told: str
    interval: str
    verdict: str
    dots: list[FindingDot]


@dataclass(frozen=True)
class CellRef:
    """A cell that a finding rests on; it is opened in the matrix."""

    test: int
    column: int
    metric: str


@dataclass(frozen=True)
class FindingShape:
    """One thing that the review says.

    `key` names it, so that a link opens it. `bands` are drawn, `heads` and `lines` say the same as a table.
    """

    key: str
    kind: str
    kind_words: str
    sentence: str
    sure: Sure
    columns: list[int]
    tests: list[int]
    cells: list[CellRef]
    caveats: list[str]
    left_out: list[str]
    # The section of the method.
    section: str
    margin_pct: float | None
    bands: list[FindingBand]
    heads: list[str]
    lines: list[list[str]]


@dataclass(frozen=True)
class Ranked:
    """A finding with its place: by group, then decided before undecided, then by size against the margin."""

    finding: FindingShape
    # 0 is about all tests, then single differences, targets, and at the end what cannot be told.
    group: int
    size: float = 0.0
    order: tuple[int, ...] = ()

    @property
    def place(self) -> tuple[int, int, float, tuple[int, ...]]:
        unsure = {"decided": 0, "warns": 1, "undecided": 2, "open": 3}[self.finding.sure]
        return self.group, unsure, -self.size, self.order


@dataclass(frozen=True)
class Kind:
    """A kind of finding: its key, what it is called, the section of the method, and how it is made."""

    key: str
    words: str
    section: str
    make: Callable[["Kind", Gathered], list[Ranked]]
