"""What a record holds: all that the public page shows, frozen."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from nomothet.server.matrix.cell import CaptureShape
from nomothet.server.matrix.export import figure_lines
from nomothet.server.matrix.matrix import MatrixShape
from nomothet.server.passes.models import Pass, Series
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import ReviewShape, review_shape
from nomothet.server.shapes import plain


@dataclass(frozen=True)
class RecordPass:
    """A pass as the record shows it."""

    id: str
    test: int
    column: int
    number: int
    outcome: str
    set_aside: bool
    reason: str
    has_trace: bool
    captures: list[CaptureShape]


@dataclass(frozen=True)
class RecordContent:
    """A published state of a review. Nothing in it changes after publishing."""

    review: ReviewShape
    matrix: MatrixShape
    passes: list[RecordPass]
    published_by: str
    published_at: datetime


def record_content(review: Review, matrix: dict[str, Any], user: User, now: datetime) -> dict[str, Any]:
    """The content of a new edition, as plain JSON; the figures are kept as the CSV that readers can download."""
    content = RecordContent(review_shape(review), cast(MatrixShape, matrix), _passes(review), user.display_name, now)
    return {**plain(content), "figures_csv": "".join(figure_lines(review))}


def _passes(review: Review) -> list[RecordPass]:
    captures: dict[object, list[CaptureShape]] = {}
    for series in Series.objects.filter(owner__test__review=review).defer("blob").order_by("pk"):
        captures.setdefault(series.owner_id, []).append(
            CaptureShape(series.pk, series.name, series.kind, series.unit, series.place, series.source, series.size)
        )
    found = (
        Pass.objects.filter(test__review=review)
        .exclude(whole_at=None)
        .prefetch_related("remarks")
        .order_by("test__position", "column__position", "number")
    )
    return [
        RecordPass(
            id=str(owner.pk),
            test=owner.test_id,
            column=owner.column_id,
            number=owner.number,
            outcome=owner.outcome,
            set_aside=owner.set_aside,
            reason=_reason(owner),
            has_trace=any(capture.kind == "frames" for capture in captures.get(owner.pk, [])),
            captures=captures.get(owner.pk, []),
        )
        for owner in found
    ]


def _reason(owner: Pass) -> str:
    remarks = list(owner.remarks.all())
    return remarks[-1].reason if owner.set_aside and remarks else ""
