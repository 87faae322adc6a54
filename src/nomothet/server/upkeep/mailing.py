"""What waits for somebody, by e-mail: one letter for all that is new, where a mail server is set and they want it."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

import structlog
from django.conf import settings
from django.core.mail import EmailMessage
from django.db.models import Q, QuerySet
from django.utils import timezone

from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.hold import hold_of
from nomothet.server.docket.models import Entry, State
from nomothet.server.follow_ups.queries import is_due as is_due_now
from nomothet.server.follow_ups.queries import open_ones
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import Preferences, User
from nomothet.server.systems.models import System
from nomothet.server.talk.models import Notice

# Of what came to pass before that, nobody is told any more.
_NEWS_FOR = timedelta(days=1)
# So many lines stand in a letter; the rest is counted.
MOST_LINES = 40
_WENT_WELL = ("completed", "stopped")

log = structlog.get_logger(__name__)


@dataclass(frozen=True)
class News:
    """Something that waits for somebody; `key` is what it is known by, so that it is told once."""

    key: str
    words: str
    path: str


def mail_what_is_new() -> int:
    """Send everybody who wants it a letter about what is new for them; gives how many letters went out.

    What could not be sent is tried again the next time.
    """
    if not settings.EMAIL_HOST:
        return 0
    wanting = Preferences.objects.exclude(mail=[]).filter(user__is_active=True).exclude(user__email="")
    return sum(_tell(one) for one in wanting.select_related("user"))


def news_of(user: User, kinds: list[str]) -> Iterator[News]:
    """All that waits for somebody now, of the kinds that they want to be told of."""
    since = timezone.now() - _NEWS_FOR
    if "named" in kinds:
        found = Notice.objects.filter(person=user, named=True, read_at=None, comment__at__gte=since)
        for notice in found.select_related("comment__by", "comment__review"):
            comment = notice.comment
            words = f"{comment.by.display_name} names you in “{comment.review.question}”: {comment.text[:200]}"
            yield News(f"comment {comment.pk}", words, "/inbox")
    if "failed" in kinds:
        yield from _failed(user, since)
    if "stopped" in kinds:
        for system in System.objects.filter(
            archived_at=None, configurations__column__entries__in=_owed(user)
        ).distinct():
            hold = hold_of(system)
            if hold is not None:
                key, path = f"docket {system.pk} {hold.words}", f"/systems/{system.pk}/docket"
                yield News(key, f"The docket of {system.name} has stopped: {hold.words}.", path)
    if "due" in kinds:
        for one in open_ones().filter(Q(person=user) | Q(person=None, by=user)):
            if is_due_now(one):
                yield News(f"follow-up {one.pk}", f"Due: {one.what}", "/follow-ups")


def _failed(user: User, since: datetime) -> Iterator[News]:
    """Passes that did not complete, of reviews of theirs or asked for by them."""
    own = Q(test__review__editor=user) | Q(pk__in=Entry.objects.filter(asked_by=user).values("pass_id"))
    passes = Pass.objects.filter(own, whole_at__gte=since).exclude(outcome__in=_WENT_WELL)
    for one in passes.select_related("test__review", "test__workload", "column").order_by("whole_at"):
        where = f"{one.test.workload.name} on {one.column.label}, in “{one.test.review.question}”"
        words = f"Pass {one.number} of {where}: {OUTCOMES[one.outcome]}. {one.note}".strip()
        yield News(f"pass {one.pk}", words, f"/reviews/{one.test.review_id}/matrix")


def _owed(user: User) -> "QuerySet[Entry]":
    return Entry.objects.filter(state=State.OWED).filter(Q(asked_by=user) | Q(test__review__editor=user))


def _tell(preferences: Preferences) -> bool:
    user = preferences.user
    waits = list(news_of(user, preferences.mail))
    fresh = [one for one in waits if one.key not in preferences.mailed]
    sent = bool(fresh) and _send(user, fresh)
    if sent or not fresh:
        kept = [one.key for one in waits]
        if kept != preferences.mailed:
            preferences.mailed = kept
            preferences.save(update_fields=["mailed"])
    return sent


def _send(user: User, fresh: list[News]) -> bool:
    more = len(fresh) - MOST_LINES
    lines = [f"- {one.words}\n  {settings.ADDRESS}{one.path}" for one in fresh[:MOST_LINES]]
    if more > 0:
        lines.append(f"- and {more} more")
    subject = fresh[0].words if len(fresh) == 1 else f"{len(fresh)} things wait for you"
    foot = "Which of this is sent to you stands on the page of your account."
    letter = EmailMessage(
        subject=" ".join(subject.split())[:120],
        body="\n\n".join([f"For {user.display_name}:", *lines, foot]),
        from_email=settings.DEFAULT_FROM_EMAIL,
        to=[user.email],
        headers={"Auto-Submitted": "auto-generated"},
    )
    try:
        return letter.send() == 1
    except OSError as error:
        log.warning("letter not sent", to=user.username, reason=str(error))
        return False
