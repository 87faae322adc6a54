"""Reviews as the screens show them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Max, Q

from nomothet.server.docket.models import Entry, State
from nomothet.server.passes.models import Pass
from nomothet.server.records.models import Record
from nomothet.server.reviews.differences import Differences, differences
from nomothet.server.reviews.models import Review


@dataclass(frozen=True)
class ReviewItem:
    """A review in the list."""

    id: int
    key: str
    question: str
    varies: str
    columns: list[str]
    tests: int
    state: str
    kept: int
    owed: int
    running: int
    last_pass_at: datetime | None
    record: str | None


@dataclass(frozen=True)
class ColumnShape:
    """A configuration in a review. `position` chooses the seal: 0 is A, 1 is B …"""

    id: int
    position: int
    label: str
    note: str
    is_baseline: bool
    system: str
    system_key: str
    configuration: str
    settings: dict[str, Any]


@dataclass(frozen=True)
class TestShape:
    id: int
    name: str
    version: str
    kind: str
    detail: str
    settings: dict[str, Any]
    shown: list[str]
    skip_s: float
    end_cut_s: float
    procedure: str


@dataclass(frozen=True)
class RecordShape:
    slug: str
    edition: int
    published_at: datetime
    published_by: str
    change_note: str


@dataclass(frozen=True)
class ReviewShape:
    """A review with its brief; `version` is what If-Match wants."""

    id: int
    key: str
    question: str
    expectation: str
    audience: str
    varies: str
    constant: str
    margin: float
    low_definition: str
    target_fps: float | None
    passes_per_test: int
    verdict: str
    editor: str
    created_at: datetime
    version: int
    columns: list[ColumnShape]
    tests: list[TestShape]
    differences: Differences
    records: list[RecordShape]


def reviews() -> list[ReviewItem]:
    """All reviews; six queries whatever their number."""
    found = list(Review.objects.order_by("position", "pk").prefetch_related("columns"))
    counts = dict(Review.objects.annotate(n=Count("tests")).values_list("pk", "n"))
    passes: dict[int, dict[str, Any]] = {
        row["test__review"]: dict(row)
        for row in Pass.objects.exclude(whole_at=None)
        .values("test__review")
        .annotate(kept=Count("pk", filter=Q(outcome="completed", set_aside=False)), last=Max("started_at"))
    }
    entries: dict[int, dict[str, Any]] = {
        row["test__review"]: dict(row)
        for row in Entry.objects.values("test__review").annotate(
            owed=Count("pk", filter=Q(state=State.OWED)), running=Count("pk", filter=Q(state=State.RUNNING))
        )
    }
    records: dict[int, str] = {}
    for review, slug in Record.objects.order_by("edition").values_list("review", "slug"):
        records[review] = slug
    return [
        _item(
            review,
            counts[review.pk],
            passes.get(review.pk, {}),
            entries.get(review.pk, {}),
            records.get(review.pk),
        )
        for review in found
    ]


def _item(
    review: Review, tests: int, passes: dict[str, Any], entries: dict[str, Any], record: str | None
) -> ReviewItem:
    kept, owed, running = passes.get("kept", 0), entries.get("owed", 0), entries.get("running", 0)
    return ReviewItem(
        id=review.pk,
        key=review.key,
        question=review.question,
        varies=review.factor.get("name", ""),
        columns=[column.label for column in review.columns.all()],
        tests=tests,
        state=_state(kept, owed, running, record),
        kept=kept,
        owed=owed,
        running=running,
        last_pass_at=passes.get("last"),
        record=record,
    )


def _state(kept: int, owed: int, running: int, record: str | None) -> str:
    if running:
        return "running"
    if owed:
        return "passes owed"
    if record:
        return "published"
    return "measured" if kept else "planned"


def review_shape(review: Review) -> ReviewShape:
    """One review with its brief, its plan and the difference table."""
    columns = review.columns.select_related("configuration__system")
    tests = review.tests.select_related("workload")
    records = review.records.select_related("published_by").defer("content")
    return ReviewShape(
        id=review.pk,
        key=review.key,
        question=review.question,
        expectation=review.expectation,
        audience=review.audience,
        varies=review.factor.get("name", ""),
        constant=review.constant,
        margin=review.margin,
        low_definition=review.low_definition,
        target_fps=review.target_fps,
        passes_per_test=review.passes_per_test,
        verdict=review.verdict,
        editor=review.editor.display_name,
        created_at=review.created_at,
        version=review.version,
        columns=[
            ColumnShape(
                id=column.pk,
                position=column.position,
                label=column.label,
                note=column.note,
                is_baseline=column.is_baseline,
                system=column.configuration.system.name,
                system_key=column.configuration.system.key,
                configuration=column.configuration.name,
                settings=column.configuration.settings,
            )
            for column in columns
        ],
        tests=[
            TestShape(
                id=test.pk,
                name=test.workload.name,
                version=test.workload.version,
                kind=test.workload.kind,
                detail=test.detail,
                settings=test.settings,
                shown=test.shown,
                skip_s=test.skip_s,
                end_cut_s=test.end_cut_s,
                procedure=test.workload.procedure,
            )
            for test in tests
        ],
        differences=differences(review),
        records=[
            RecordShape(r.slug, r.edition, r.published_at, r.published_by.display_name, r.change_note) for r in records
        ],
    )
