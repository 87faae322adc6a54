"""The talk of a review, somebody's inbox, and who is looking."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from nomothet.server.people.models import User
from nomothet.server.reviews.models import Review
from nomothet.server.talk.models import Comment, Looking, Notice, Seen

# Who has not been heard of for so long no longer looks.
_LOOKS_FOR = timedelta(seconds=45)
_MOST_NOTICES = 100


@dataclass(frozen=True)
class CommentShape:
    id: int
    text: str
    by: str
    username: str
    at: datetime
    edited_at: datetime | None
    unread: bool


@dataclass(frozen=True)
class ThreadShape:
    """A thread about a thing. `words` name the thing as it was; `gone` says that it is no longer there."""

    id: int
    about: str
    words: str
    test: int | None
    column: int | None
    owner: str | None
    key: str
    gone: bool
    closed_by: str
    closed_at: datetime | None
    comments: list[CommentShape]


@dataclass(frozen=True)
class PersonShape:
    username: str
    display_name: str


@dataclass(frozen=True)
class TalkShape:
    """Everything that was said of a review; `people` are those who can be named."""

    threads: list[ThreadShape]
    open: int
    unread: int
    last: int
    people: list[PersonShape]


@dataclass(frozen=True)
class NoticeShape:
    id: int
    review: int
    question: str
    thread: int
    about: str
    words: str
    text: str
    by: str
    at: datetime
    named: bool
    read: bool


@dataclass(frozen=True)
class InboxShape:
    unread: int
    notices: list[NoticeShape]


@dataclass(frozen=True)
class LookingShape:
    username: str
    display_name: str
    sheet: str


def talk(user: User, review: Review) -> TalkShape:
    """The threads of a review, the open ones first, each in the order of its comments."""
    seen = Seen.objects.filter(person=user, review=review).values_list("comment", flat=True).first() or 0
    answers: dict[int, list[Comment]] = defaultdict(list)
    roots: list[Comment] = []
    for one in review.comments.select_related("by", "closed_by"):
        if one.parent_id is None:
            roots.append(one)
        else:
            answers[one.parent_id].append(one)

    def shape(one: Comment) -> CommentShape:
        unread = one.pk > seen and one.by_id != user.pk
        return CommentShape(one.pk, one.text, one.by.display_name, one.by.username, one.at, one.edited_at, unread)

    threads = [_thread(root, [shape(one) for one in (root, *answers[root.pk])]) for root in roots]
    threads.sort(key=lambda one: (one.closed_at is not None, -one.comments[-1].id))
    every = [one for thread in threads for one in thread.comments]
    return TalkShape(
        threads,
        sum(one.closed_at is None for one in threads),
        sum(one.unread for one in every),
        max((one.id for one in every), default=0),
        [
            PersonShape(one.username, one.display_name)
            for one in User.objects.filter(is_active=True).order_by("display_name")
        ],
    )


def _thread(root: Comment, comments: list[CommentShape]) -> ThreadShape:
    gone = (root.about in ("cell", "pass") and (root.test_id is None or root.column_id is None)) or (
        root.about == "pass" and root.owner_id is None
    )
    return ThreadShape(
        root.pk,
        root.about,
        root.words,
        root.test_id,
        root.column_id,
        str(root.owner_id) if root.owner_id else None,
        root.key,
        gone,
        root.closed_by.display_name if root.closed_by else "",
        root.closed_at,
        comments,
    )


def inbox(user: User) -> InboxShape:
    """What wants somebody's attention, the latest first."""
    own = Notice.objects.filter(person=user)
    found = own.select_related("comment__by", "comment__review", "comment__parent").order_by("-comment")[:_MOST_NOTICES]
    return InboxShape(
        own.filter(read_at=None).count(),
        [
            NoticeShape(
                one.pk,
                one.comment.review_id,
                one.comment.review.question,
                one.comment.parent_id or one.comment_id,
                one.comment.about,
                (one.comment.parent or one.comment).words,
                one.comment.text,
                one.comment.by.display_name,
                one.comment.at,
                one.named,
                one.read_at is not None,
            )
            for one in found
        ],
    )


def looking(user: User, review: Review) -> list[LookingShape]:
    """Who else looks at a review just now."""
    recent = Looking.objects.filter(review=review, at__gte=timezone.now() - _LOOKS_FOR).exclude(person=user)
    return [
        LookingShape(one.person.username, one.person.display_name, one.sheet)
        for one in recent.select_related("person").order_by("person__display_name")
    ]
