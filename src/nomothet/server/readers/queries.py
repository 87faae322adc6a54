"""What readers have sent, for the team and for the public page."""

from dataclasses import dataclass
from datetime import datetime

from nomothet.server.readers.models import Message
from nomothet.server.reviews.models import Review

_MOST = 300


@dataclass(frozen=True)
class MessageShape:
    """A message as the team sees it; `email` is shown to nobody else."""

    id: int
    review: int
    question: str
    edition: int
    kind: str
    text: str
    machine: str
    figure: str
    name: str
    email: str
    at: datetime
    state: str
    decided_by: str
    answer: str
    answered_by: str


@dataclass(frozen=True)
class MessagesShape:
    waiting: int
    messages: list[MessageShape]


@dataclass(frozen=True)
class PublicMessage:
    """A message as the public page shows it."""

    kind: str
    text: str
    machine: str
    figure: str
    name: str
    at: datetime
    answer: str
    answered_by: str


def messages() -> MessagesShape:
    """All messages of readers, those that wait first."""
    found = list(
        Message.objects.select_related("review", "decided_by", "answered_by").order_by("-state", "-at")[:_MOST]
    )
    order = {Message.State.WAITING: 0, Message.State.SHOWN: 1, Message.State.REFUSED: 2}
    found.sort(key=lambda one: order[Message.State(one.state)])
    return MessagesShape(
        Message.objects.filter(state=Message.State.WAITING).count(),
        [
            MessageShape(
                one.pk, one.review_id, one.review.question, one.edition, one.kind, one.text, one.machine, one.figure,
                one.name, one.email, one.at, one.state, one.decided_by.display_name if one.decided_by else "",
                one.answer, one.answered_by.display_name if one.answered_by else "",
            )
            for one in found
        ],
    )  # fmt: skip


def shown_messages(review: Review | int) -> list[PublicMessage]:
    """What was let through under the records of a review."""
    found = Message.objects.filter(review=review, state=Message.State.SHOWN).select_related("answered_by")
    return [
        PublicMessage(
            one.kind, one.text, one.machine, one.figure, one.name or "a reader", one.at, one.answer,
            one.answered_by.display_name if one.answered_by else "",
        )
        for one in found
    ]  # fmt: skip
