"""What happened in a review since somebody last worked on it."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Count, Q
from django.utils import timezone

from nomothet.server.docket.models import Entry, State
from nomothet.server.history.models import Event
from nomothet.server.passes.models import Pass, Remark
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Review
from nomothet.server.talk.models import Comment, Looking

# Who comes back within a working day has not been away.
AWAY = timedelta(hours=8)
_MOST_FAILURES = 5


@dataclass(frozen=True)
class FailedSince:
    """A pass that did not complete; `words` say how it ended."""

    test: int
    column: int
    number: int
    words: str


@dataclass(frozen=True)
class DoneSince:
    """What somebody did, by the words of the history, and how often."""

    by: str
    act: str
    count: int


@dataclass(frozen=True)
class SinceShape:
    """What others and the benches did since then; `since` is null for who has not been away."""

    since: datetime | None
    passes: int
    failed: int
    failures: list[FailedSince]
    remarks: int
    comments: int
    acts: list[DoneSince]
    owed: int
    running: int


def since_last(user: User, review: Review) -> SinceShape:
    """What happened since the last time that somebody looked; seven queries at most."""
    look = Looking.objects.filter(person=user, review=review).first()
    since = None
    if look is not None:
        since = look.since or (look.at if timezone.now() - look.at > AWAY else None)
    if since is None:
        return SinceShape(None, 0, 0, [], 0, 0, [], 0, 0)
    brought = Pass.objects.whole().filter(test__review=review, whole_at__gt=since)
    came = brought.filter(Q(bench__isnull=False) | ~Q(brought_by=user))
    counted = came.aggregate(
        whole=Count("pk", filter=Q(outcome="completed")), failed=Count("pk", filter=~Q(outcome="completed"))
    )
    failures = came.exclude(outcome="completed").order_by("-whole_at")[:_MOST_FAILURES]
    events = Event.objects.filter(kind="review", object_id=review.pk, at__gt=since).exclude(by=user)
    acts = Counter((one.by.display_name if one.by else "", one.act) for one in events.select_related("by"))
    entries = Entry.objects.filter(test__review=review).aggregate(
        owed=Count("pk", filter=Q(state=State.OWED)), running=Count("pk", filter=Q(state=State.RUNNING))
    )
    return SinceShape(
        since=since,
        passes=counted["whole"],
        failed=counted["failed"],
        failures=[
            FailedSince(one.test_id, one.column_id, one.number, one.outcome.replace("_", " ")) for one in failures
        ],
        remarks=Remark.objects.filter(owner__test__review=review, at__gt=since).exclude(by=user).count(),
        comments=Comment.objects.filter(review=review, at__gt=since).exclude(by=user).count(),
        acts=[DoneSince(by, act, count) for (by, act), count in acts.most_common()],
        owed=entries["owed"],
        running=entries["running"],
    )


def note_look(user: User, review: Review, sheet: str) -> None:
    """Somebody looks at a sheet just now; where they have been away, since when is kept until they have read it."""
    now = timezone.now()
    look, made = Looking.objects.get_or_create(person=user, review=review, defaults={"sheet": sheet, "at": now})
    if made:
        return
    if look.since is None and now - look.at > AWAY:
        look.since = look.at
    look.sheet, look.at = sheet, now
    look.save(update_fields=["since", "sheet", "at"])


def have_read(user: User, review: Review) -> None:
    """What happened meanwhile has been read."""
    Looking.objects.filter(person=user, review=review).update(since=None, at=timezone.now())
