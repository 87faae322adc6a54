"""Writing a verdict, answering its checks, and signing it."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain
from nomothet.server.verdicts.content import LONGEST_LINE, read_uses
from nomothet.server.verdicts.models import Reply, Revision, Settled, Signature, Verdict
from nomothet.server.verdicts.signatures import signatures_of, state_to_sign
from nomothet.server.verdicts.verdict import verdict_of, verdict_shape

MOST_REPLIES = 500


def edit_verdict(user: User, review: Review, changes: Mapping[str, Any]) -> Verdict:
    """Change the answer or the uses; the caller has locked the review and checked the version."""
    require(user, Act.EDIT_REVIEW)
    verdict = verdict_of(review) or Verdict(review=review, version=0)
    before = {"answer": verdict.answer, "uses": verdict.uses}
    if "answer" in changes:
        if len(changes["answer"]) > LONGEST_LINE:
            raise unusable(f"The answer is one sentence of {LONGEST_LINE} letters at most.", field="answer")
        verdict.answer = " ".join(changes["answer"].split())
    if "uses" in changes:
        verdict.uses = plain(read_uses(review, changes["uses"]))
    after = {"answer": verdict.answer, "uses": verdict.uses}
    if after == before and verdict.pk:
        return verdict
    with transaction.atomic():
        verdict.version += 1
        verdict.save()
        Revision.objects.create(verdict=verdict, version=verdict.version, by=user, **after)
        remember(user, "review", review.pk, "verdict edited", changed(before, after))
        announce("verdict", review=review.pk)
    return verdict


def reply(user: User, review: Review, sentence: str, kind: str, words: str) -> Reply:
    """Answer the check of a sentence: it is a judgement, or it stands all the same and why."""
    require(user, Act.EDIT_REVIEW)
    if kind == Reply.Kind.STANDS and not words.strip():
        raise unusable("Say why the sentence stands all the same; it is kept with it.", field="words")
    if review.replies.count() >= MOST_REPLIES:
        raise unusable(f"{MOST_REPLIES} answers are kept of a review; take some back first.")
    with transaction.atomic():
        review.replies.filter(sentence=sentence).delete()
        made = Reply.objects.create(review=review, sentence=sentence, kind=kind, words=words.strip(), by=user)
        remember(user, "review", review.pk, "sentence answered", {"sentence": [sentence, f"{kind}: {words.strip()}"]})
        announce("verdict", review=review.pk)
    return made


def take_reply_back(user: User, found: Reply) -> None:
    """Let the check of a sentence stand unanswered again."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        remember(user, "review", found.review_id, "answer taken back", {"sentence": [found.sentence, None]})
        announce("verdict", review=found.review_id)
        found.delete()


def settle(user: User, review: Review, key: str, how: str, words: str) -> Settled:
    """Answer a point that is open before publishing; what is accepted stands in the record."""
    require(user, Act.EDIT_REVIEW)
    point = next((one for one in verdict_shape(review).points if one.key == key), None)
    if point is None:
        raise unusable("This point is no longer open; reload the sheet.", field="key")
    if not words.strip():
        raise unusable("A word on why is needed; readers see it in the record.", field="words")
    with transaction.atomic():
        made, _ = Settled.objects.update_or_create(
            review=review,
            key=key,
            defaults={"point": point.words[:600], "how": how, "words": words.strip(), "by": user},
        )
        remember(user, "review", review.pk, "point answered", {"point": [point.words, f"{how}: {words.strip()}"]})
        announce("verdict", review=review.pk)
    return made


def unsettle(user: User, review: Review, key: str) -> None:
    """Take the answer to a point back."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        for found in review.settled.filter(key=key):
            remember(user, "review", review.pk, "answer taken back", {"point": [found.point, None]})
            found.delete()
        announce("verdict", review=review.pk)


def sign(user: User, review: Review, role: str) -> Signature:
    """Stand for a verdict as it is. The second reader is somebody else than the author."""
    require(user, Act.SIGN if role == Signature.Role.SECOND else Act.EDIT_REVIEW)
    with transaction.atomic():
        locked = Review.objects.select_for_update().get(pk=review.pk)
        verdict = verdict_of(locked)
        if verdict is None or not (verdict.answer or verdict.uses):
            raise unusable("There is nothing to sign yet: write the answer, or a verdict by use.")
        standing = {one.role: one for one in signatures_of(locked, verdict.version) if one.stands}
        if role in standing:
            raise conflict(f"{standing[role].by} has signed as {role} already.")
        if user.username in {one.username for one in standing.values()}:
            raise conflict("Author and second reader are two people; somebody else signs as the other.")
        made = Signature.objects.create(review=locked, role=role, state=state_to_sign(locked, verdict.version), by=user)
        remember(user, "review", locked.pk, "signed", {"as": [None, role]})
        announce("verdict", review=locked.pk)
    return made


def withdraw_signature(user: User, found: Signature) -> None:
    """Take back one's own signature; that it was given stays on record."""
    if found.by_id != user.pk:
        require(user, Act.SET_TEAM)
    if found.withdrawn_at is not None:
        return
    with transaction.atomic():
        found.withdrawn_at = timezone.now()
        found.save(update_fields=["withdrawn_at"])
        remember(user, "review", found.review_id, "signature withdrawn", {"as": [found.role, None]})
        announce("verdict", review=found.review_id)
