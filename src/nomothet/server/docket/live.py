"""A pass while it runs: what its bench has told in the last minutes."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone

from nomothet.server.docket.models import Entry
from nomothet.server.feed.queries import changes_since

LIVE_NEEDS = ("test__workload", "test__review", "column__configuration__system", "bench", "by_hand")
_WINDOW = timedelta(minutes=5)


@dataclass(frozen=True)
class LivePoint:
    """One report of a bench, on the clock of the pass."""

    elapsed_s: float
    readings: dict[str, float | None]


@dataclass(frozen=True)
class LiveShape:
    """A pass of the docket as it goes. `limit_c` is the temperature that the review wants it to stay under."""

    entry: int
    review: int
    test: int
    column: int
    # The leading metric of the test, by which its cell is opened.
    metric: str
    number: int
    state: str
    pass_id: str | None
    question: str
    test_name: str
    detail: str
    kind: str
    configuration: str
    label: str
    position: int
    is_baseline: bool
    system: int
    system_name: str
    progress: dict[str, Any]
    told_at: datetime | None
    taken_at: datetime | None
    stop_wanted: bool
    by_hand: str
    limit_c: float | None
    points: list[LivePoint]


def live(entry: Entry) -> LiveShape:
    """Two queries besides the entry's own."""
    told = changes_since("progress", timezone.now() - _WINDOW, entry=entry.pk)
    points = [LivePoint(float(one["progress"]["elapsed_s"]), one["progress"].get("readings", {})) for one in told]
    column, test = entry.column, entry.test
    return LiveShape(
        entry=entry.pk,
        review=test.review_id,
        test=test.pk,
        column=column.pk,
        metric=next(iter(test.shown), ""),
        number=entry.number,
        state=entry.state,
        pass_id=str(entry.pass_id) if entry.pass_id else None,
        question=test.review.question,
        test_name=test.workload.name,
        detail=test.detail,
        kind=test.workload.kind,
        configuration=column.configuration.title,
        label=column.label,
        position=column.position,
        is_baseline=column.is_baseline,
        system=column.configuration.system_id,
        system_name=column.configuration.system.name,
        progress=entry.progress,
        told_at=entry.told_at,
        taken_at=entry.taken_at,
        stop_wanted=entry.stop_wanted,
        by_hand=entry.by_hand.display_name if entry.by_hand else "",
        limit_c=test.review.target_c,
        points=points,
    )
