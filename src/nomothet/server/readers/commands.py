"""Taking what readers send, letting it through, and answering."""

from collections.abc import Mapping

from django.db import transaction
from django.utils import timezone

from nomothet.server.analysis.hypotheses import add_hypothesis
from nomothet.server.analysis.models import Hypothesis
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.readers.models import Message
from nomothet.server.readers.spam import refuse_machines
from nomothet.server.records.models import Record

LONGEST = 2000
# So many of one review wait at most; more would bury those that wait already.
MOST_WAITING = 200


def take(record: Record, given: Mapping[str, str]) -> Message:
    """Take a question or a result from somebody who has not signed in; it waits until it is let through."""
    refuse_machines(given)
    text = given.get("text", "").strip()
    kind = given.get("kind") or Message.Kind.QUESTION
    if kind not in Message.Kind.values:
        raise unusable("A question or a result can be sent.", field="kind")
    if not 3 <= len(text) <= LONGEST:
        raise unusable(f"Write 3 to {LONGEST} letters.", field="text")
    if kind == Message.Kind.RESULT and not (given.get("machine", "").strip() and given.get("figure", "").strip()):
        raise unusable("A result says on which machine it was measured, and its figure with the unit.", field="machine")
    waiting = record.review.messages.filter(state=Message.State.WAITING)
    if waiting.filter(text=text).exists():
        raise conflict("The same words wait already to be read.")
    if waiting.count() >= MOST_WAITING:
        raise conflict("So many questions wait that no more are taken just now. Try again in some days.")
    with transaction.atomic():
        made = Message.objects.create(
            review=record.review,
            edition=record.edition,
            kind=kind,
            text=text,
            machine=given.get("machine", "").strip()[:300] if kind == Message.Kind.RESULT else "",
            figure=given.get("figure", "").strip()[:100] if kind == Message.Kind.RESULT else "",
            name=given.get("name", "").strip()[:80],
            email=given.get("email", "").strip()[:254],
        )
        announce("readers", review=record.review_id)
    return made


def decide(user: User, message: Message, state: str) -> None:
    """Let a message through, or refuse it; both can be changed later."""
    require(user, Act.PUBLISH)
    with transaction.atomic():
        before = message.state
        message.state, message.decided_by, message.decided_at = state, user, timezone.now()
        message.save(update_fields=["state", "decided_by", "decided_at"])
        remember(user, "review", message.review_id, "reader's message decided", {"state": [before, state]})
        announce("readers", review=message.review_id)


def answer(user: User, message: Message, words: str) -> None:
    """Answer a message in public; answering one that waits lets it through."""
    require(user, Act.PUBLISH)
    text = words.strip()
    if not text or len(text) > LONGEST:
        raise unusable(f"An answer has 1 to {LONGEST} letters.", field="answer")
    with transaction.atomic():
        remember(user, "review", message.review_id, "reader answered", {"answer": [message.answer, text]})
        message.answer, message.answered_by, message.answered_at = text, user, timezone.now()
        if message.state == Message.State.WAITING:
            message.state, message.decided_by, message.decided_at = Message.State.SHOWN, user, timezone.now()
        message.save()
        announce("readers", review=message.review_id)


def follow_up(user: User, message: Message) -> Hypothesis:
    """Make an explanation to be tested of what a reader says; it enters no comparison."""
    told = f"A reader says: {message.text}" if message.kind == Message.Kind.QUESTION else (
        f"A reader measured {message.figure} on {message.machine}: {message.text}"
    )  # fmt: skip
    return add_hypothesis(user, message.review, None, None, {"words": told[:400], "status": "open"})
