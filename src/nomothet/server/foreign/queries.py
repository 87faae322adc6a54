"""The list of records that were brought in."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.records.earlier import readable

_UNTOLD: Mapping[str, Any] = {"answer": "", "published_by": "", "published_at": "", "columns": [], "tests": 0}


@dataclass(frozen=True)
class ForeignShape:
    """A record of foreign origin as the list shows it; `checked` is how many figures and comparisons were worked out
    again when it came."""

    id: int
    state: str
    # Why it was refused.
    problem: str
    question: str
    origin: str
    edition: str
    checked: int
    brought_by: str
    brought_at: datetime
    # Of one that is not ready, these are empty.
    answer: str
    published_by: str
    published_at: str
    columns: list[str]
    tests: int


def told_of(content: Mapping[str, Any]) -> dict[str, Any]:
    """What a list says of a record."""
    known = readable(content)
    return {
        "question": known["review"]["question"],
        "answer": known["verdict"]["answer"],
        "published_by": known["published_by"],
        "published_at": str(known["published_at"])[:10],
        "columns": [column["label"] for column in known["review"]["columns"]],
        "tests": len(known["review"]["tests"]),
    }


def foreign_records() -> list[ForeignShape]:
    """Those on the list, the latest first."""
    found = ForeignRecord.objects.filter(removed_at=None).select_related("brought_by").defer("content")
    return [foreign_shape(one) for one in found]


def foreign_shape(record: ForeignRecord) -> ForeignShape:
    return ForeignShape(
        id=record.pk,
        state=record.state,
        problem=record.problem,
        origin=record.origin,
        edition=record.edition,
        checked=again_of(record),
        brought_by=record.brought_by.display_name,
        brought_at=record.brought_at,
        **{**_UNTOLD, **record.told},
    )


def again_of(record: ForeignRecord) -> int:
    """How many figures, centres and comparisons were worked out again."""
    return sum(record.checked.get(kind, 0) for kind in ("figures", "centres", "comparisons"))
