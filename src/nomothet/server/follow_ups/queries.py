"""Follow-ups as they are shown."""

from dataclasses import dataclass
from datetime import date, datetime

from django.db.models import Q, QuerySet
from django.utils import timezone

from nomothet.server.follow_ups.models import FollowUp

_ABOUT = ("review", "record", "hypothesis", "system", "person", "by", "ended_by")


@dataclass(frozen=True)
class FollowUpShape:
    """A follow-up; `version` is what If-Match wants. It is due when its day has come, or what it waits for is here."""

    id: int
    what: str
    why: str
    review: int | None
    question: str
    # A published edition: its address, and its number.
    record: str
    edition: int | None
    hypothesis: int | None
    hypothesis_words: str
    system: int | None
    system_name: str
    waits_for: str
    waits_words: str
    due: date | None
    here_at: datetime | None
    is_due: bool
    tests: list[int]
    person: int | None
    person_name: str
    state: str
    outcome: str
    ended_by: str
    ended_at: datetime | None
    by: str
    at: datetime
    version: int


def follow_ups(*, review: int | None = None, system: int | None = None, ended: bool = False) -> list[FollowUpShape]:
    """The open ones, or all; what is due first, then by day."""
    found = FollowUp.objects.select_related(*_ABOUT).defer("record__content")
    if review is not None:
        found = found.filter(Q(review=review) | Q(hypothesis__review=review))
    if system is not None:
        found = found.filter(system=system)
    if not ended:
        found = found.filter(state=FollowUp.State.OPEN)
    shapes = [shape_of(one) for one in found]
    return sorted(shapes, key=lambda one: (one.state != "open", not one.is_due, one.due or date.max, one.id))


def open_ones() -> QuerySet[FollowUp]:
    """Those that are not ended, by day."""
    return FollowUp.objects.filter(state=FollowUp.State.OPEN).select_related(*_ABOUT).defer("record__content")


def is_due(one: FollowUp) -> bool:
    """Whether it can be seen to now."""
    day_has_come = one.due is not None and one.due <= timezone.localdate()
    return one.state == FollowUp.State.OPEN and (one.here_at is not None or day_has_come)


def shape_of(one: FollowUp) -> FollowUpShape:
    return FollowUpShape(
        id=one.pk,
        what=one.what,
        why=one.why,
        review=one.review_id,
        question=one.review.question if one.review else "",
        record=one.record.slug if one.record else "",
        edition=one.record.edition if one.record else None,
        hypothesis=one.hypothesis_id,
        hypothesis_words=one.hypothesis.words if one.hypothesis else "",
        system=one.system_id,
        system_name=one.system.name if one.system else "",
        waits_for=one.waits_for,
        waits_words=one.waits_words,
        due=one.due,
        here_at=one.here_at,
        is_due=is_due(one),
        tests=one.tests,
        person=one.person_id,
        person_name=one.person.display_name if one.person else "",
        state=one.state,
        outcome=one.outcome,
        ended_by=one.ended_by.display_name if one.ended_by else "",
        ended_at=one.ended_at,
        by=one.by.display_name,
        at=one.at,
        version=one.version,
    )
