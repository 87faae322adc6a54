"""All findings of a review, ranked by use to its question."""

from dataclasses import dataclass

from nomothet.server.findings import grids, not_settled, over_all, sweeps, targets, versus
from nomothet.server.findings.finding import FindingShape, Kind
from nomothet.server.findings.gathered import gathered
from nomothet.server.reviews.models import Review

KINDS: tuple[Kind, ...] = (over_all.KIND, sweeps.KIND, grids.KIND, versus.KIND, targets.KIND, not_settled.KIND)


@dataclass(frozen=True)
class FindingKindShape:
    """A kind with how many findings of it there are."""

    key: str
    words: str
    count: int


@dataclass(frozen=True)
class FindingsShape:
    kinds: list[FindingKindShape]
    findings: list[FindingShape]


def findings(review: Review) -> FindingsShape:
    """What the review says: about all tests before single ones, decided before undecided, larger before smaller."""
    found = gathered(review)
    ranked = sorted((one for kind in KINDS for one in kind.make(kind, found)), key=lambda one: one.place)
    shapes = [one.finding for one in ranked]
    kinds = [FindingKindShape(kind.key, kind.words, sum(one.kind == kind.key for one in shapes)) for kind in KINDS]
    return FindingsShape([kind for kind in kinds if kind.count], shapes)
