"""The list of reviews, with what each has measured, still owes and has published."""

import re
from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Max, Q, Sum

from nomothet.claims.sentences import MARK
from nomothet.server.docket.models import Entry, State
from nomothet.server.findings.models import Pin
from nomothet.server.passes.putting_away import put_away_of
from nomothet.server.passes.tallies import tallies
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Column, Review
from nomothet.server.verdicts.models import Verdict


@dataclass(frozen=True)
class ReviewItem:
    """A review in the list."""

    id: int
    key: str
    question: str
    # The answer in one sentence; empty until somebody has written it.
    answer: str
    varies: str
    columns: list[str]
    tests: int
    state: str
    kept: int
    owed: int
    running: int
    last_pass_at: datetime | None
    record: str | None
    archived: bool
    # Bytes of the captures that were put away with it, and what they take now.
    put_away: int
    put_away_in: int


def reviews(archived: bool = False) -> list[ReviewItem]:
    """All reviews; seven queries whatever their number and that of their passes."""
    wanted = Review.objects.order_by("position", "pk").only("key", "question", "factors", "archived_at")
    found = list(wanted if archived else wanted.filter(archived_at=None))
    labels: dict[int, list[str]] = defaultdict(list)
    for review, label in Column.objects.order_by("review", "position").values_list("review", "label"):
        labels[review].append(label)
    counts: dict[int, dict[str, Any]] = {
        row["review"]: dict(row)
        for row in tallies().values("review").annotate(tests=Count("pk"), kept=Sum("kept"), last=Max("last_at"))
    }
    entries: dict[int, dict[str, Any]] = {
        row["test__review"]: dict(row)
        for row in Entry.objects.filter(state__in=(State.OWED, State.RUNNING))
        .values("test__review")
        .annotate(owed=Count("pk", filter=Q(state=State.OWED)), running=Count("pk", filter=Q(state=State.RUNNING)))
        .order_by()
    }
    records: dict[int, str] = {}
    for review, slug in Record.objects.order_by("edition").values_list("review", "slug"):
        records[review] = slug
    answers = _answers()
    away = put_away_of([review.pk for review in found if review.archived_at is not None])
    return [
        _item(
            review,
            answers.get(review.pk, ""),
            labels[review.pk],
            counts.get(review.pk, {}),
            entries.get(review.pk, {}),
            records.get(review.pk),
            away.get(review.pk, (0, 0)),
        )
        for review in found
    ]


def _answers() -> dict[int, str]:
    """The answers as they are read, with the amounts that their findings last told and without marks."""
    answers = dict(Verdict.objects.exclude(answer="").values_list("review", "answer"))
    marked = [review for review, answer in answers.items() if MARK.search(answer)]
    if not marked:
        return answers
    told: dict[tuple[int, int], str] = {
        (review, number): seen.get("told", "")
        for review, number, seen in Pin.objects.filter(review__in=marked).values_list("review", "number", "seen")
    }

    def read(review: int, answer: str) -> str:
        plain = MARK.sub(
            lambda mark: told.get((review, int(mark[1])), "").lstrip("+−-") if mark[2] == "amount" else "", answer
        )
        return re.sub(r"\s+([.,;:])", r"\1", " ".join(plain.split()))

    return {review: read(review, answer) for review, answer in answers.items()}


def _item(
    review: Review,
    answer: str,
    columns: list[str],
    counts: dict[str, Any],
    entries: dict[str, Any],
    record: str | None,
    away: tuple[int, int],
) -> ReviewItem:
    kept, owed, running = counts.get("kept", 0), entries.get("owed", 0), entries.get("running", 0)
    return ReviewItem(
        id=review.pk,
        key=review.key,
        question=review.question,
        answer=answer,
        varies=", ".join(factor["name"] for factor in review.factors),
        columns=columns,
        tests=counts.get("tests", 0),
        state=_state(kept, owed, running, record),
        kept=kept,
        owed=owed,
        running=running,
        last_pass_at=counts.get("last"),
        record=record,
        archived=review.archived_at is not None,
        put_away=away[0],
        put_away_in=away[1],
    )


def _state(kept: int, owed: int, running: int, record: str | None) -> str:
    if running:
        return "running"
    if owed:
        return "passes owed"
    if record:
        return "published"
    return "measured" if kept else "planned"
