"""Commenting, answering, closing, and marking as read."""

import re
from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review
from nomothet.server.talk.models import Comment, Notice, Seen
from nomothet.server.talk.things import thing_of

LONGEST = 4000
_NAME = re.compile(r"(?<![\w@])@(\w[\w-]{0,149}(?:\.[\w-]+)*)")


def comment(user: User, review: Review, given: Mapping[str, Any]) -> Comment:
    """Begin a thread about a thing, or answer in one; whoever is named or takes part is told."""
    require(user, Act.COMMENT)
    text = _text(given.get("text"))
    with transaction.atomic():
        parent = None
        if given.get("thread"):
            parent = review.comments.filter(pk=given["thread"], parent=None).first()
            if parent is None:
                raise unusable("The thread that this answers is not of this review.", field="thread")
        fields = {"about": parent.about, "words": ""} if parent else thing_of(review, given)
        made = Comment.objects.create(review=review, parent=parent, text=text, by=user, **fields)
        if parent and parent.closed_at is not None:
            parent.closed_at = parent.closed_by = None
            parent.save(update_fields=["closed_at", "closed_by"])
        _tell(made, user)
        announce("talk", review=review.pk)
    return made


def edit_comment(user: User, found: Comment, text: str) -> Comment:
    """Change one's own words; what they were stays in the history."""
    require(user, Act.COMMENT)
    if found.by_id != user.pk:
        raise conflict("Only who wrote a comment changes it.")
    after = _text(text)
    with transaction.atomic():
        remember(user, "comment", found.pk, "edited", {"text": [found.text, after]})
        found.text, found.edited_at = after, timezone.now()
        found.save(update_fields=["text", "edited_at"])
        _tell(found, user)
        announce("talk", review=found.review_id)
    return found


def close(user: User, found: Comment, closed: bool) -> None:
    """Close a thread that is settled, or open it again."""
    require(user, Act.COMMENT)
    if found.parent_id is not None:
        raise unusable("A thread is closed as a whole; this is an answer in it.")
    with transaction.atomic():
        found.closed_at = timezone.now() if closed else None
        found.closed_by = user if closed else None
        found.save(update_fields=["closed_at", "closed_by"])
        announce("talk", review=found.review_id)


def mark_read(user: User, review: Review, upto: int) -> None:
    """Somebody has read the talk of a review up to a comment."""
    known = Seen.objects.filter(person=user, review=review).first()
    if known is None or known.comment < upto:
        Seen.objects.update_or_create(person=user, review=review, defaults={"comment": upto})
    Notice.objects.filter(person=user, comment__review=review, comment__lte=upto, read_at=None).update(
        read_at=timezone.now()
    )


def read_notices(user: User, notices: list[int]) -> None:
    """Mark some of one's own notices as read; all of them where none is named."""
    own = Notice.objects.filter(person=user, read_at=None)
    (own.filter(pk__in=notices) if notices else own).update(read_at=timezone.now())


def _text(given: Any) -> str:
    text = str(given or "").strip()
    if not text:
        raise unusable("An empty comment says nothing.", field="text")
    if len(text) > LONGEST:
        raise unusable(f"A comment has {LONGEST} letters at most; this one has {len(text)}.", field="text")
    return text


def _tell(made: Comment, user: User) -> None:
    """Notices for whoever is named, and for those who took part in the thread."""
    named = set(User.objects.filter(username__in=set(_NAME.findall(made.text)), is_active=True))
    taking_part: set[User] = set()
    if made.parent is not None:
        thread = Comment.objects.filter(parent=made.parent).exclude(pk=made.pk).select_related("by")
        taking_part = {made.parent.by, *(one.by for one in thread)}
    for person in (named | taking_part) - {user}:
        Notice.objects.get_or_create(comment=made, person=person, defaults={"named": person in named})
