"""Publishing."""

import uuid

from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from nomothet.server.feed.commands import announce
from nomothet.server.findings.findings import findings
from nomothet.server.history.commands import remember
from nomothet.server.matrix.matrix import seen
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.problems import conflict, unusable
from nomothet.server.records.content import record_content
from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.raw_files import AS_USUAL, RawFiles
from nomothet.server.reviews.models import Review
from nomothet.server.verdicts.verdict import verdict_shape
from nomothet.words.lists import and_list

_LONGEST = 60


def publish(
    user: User,
    review: Review,
    change_note: str = "",
    request: uuid.UUID | None = None,
    raw: RawFiles = AS_USUAL,
) -> Record:
    """Freeze the present state of a review as a public record; the first is edition 1, each later one a correction.

    Parameters
    ----------
    request : UUID, optional
        Of the request: sent twice, it publishes once.
    raw : RawFiles
        Which raw captures go out with it.
    """
    require(user, Act.PUBLISH)
    with transaction.atomic():
        locked = Review.objects.select_for_update().get(pk=review.pk)
        published = locked.records.filter(request=request).first() if request else None
        if published is not None:
            return published
        passes = list(Pass.objects.whole().filter(test__review=locked).values_list("pk", flat=True))
        if not passes:
            raise unusable("There is no pass to publish yet. Run or import at least one.")
        edition = (locked.records.values_list("edition", flat=True).first() or 0) + 1
        if edition > 1 and not change_note.strip():
            raise unusable("Say what changed since the last edition; readers will see it.")
        slug = _slug(locked, edition)
        whole, found = seen(locked), findings(locked)
        verdict = verdict_shape(locked, whole.shown, found)
        if verdict.lacks:
            raise conflict(
                f"The team asks for two signatures before publishing; {and_list(verdict.lacks)} has not signed "
                "what stands there now."
            )
        last = locked.records.filter(withdrawn_at=None).first()
        before = readable(last.content) if last else None
        record = Record.objects.create(
            review=locked,
            edition=edition,
            slug=slug,
            published_by=user,
            publisher=user.display_name,
            request=request,
            change_note=change_note.strip(),
            content=record_content(locked, whole, verdict, found, user, timezone.now(), before, raw),
        )
        shown = Record.passes.through
        shown.objects.bulk_create(shown(record_id=record.pk, pass_id=pk) for pk in passes)
        remember(user, "review", locked.pk, "published", {"edition": [edition - 1 or None, edition]})
        note_security("published", by=user, record=slug)
        announce("record", review=locked.pk, slug=slug)
    return record


def withdraw(user: User, record: Record, why: str) -> Record:
    """Take a record back: its page says so and why, its address stays, and what it held is kept and not served."""
    require(user, Act.PUBLISH)
    if not why.strip():
        raise unusable("Say why it is withdrawn; readers see it.", field="why")
    if record.withdrawn_at is not None:
        raise conflict("This record is withdrawn already.")
    with transaction.atomic():
        record.withdrawn_at, record.withdrawn_by, record.withdrawn_why = timezone.now(), user, why.strip()
        record.save(update_fields=["withdrawn_at", "withdrawn_by", "withdrawn_why"])
        remember(user, "review", record.review_id, "record withdrawn", {"edition": [record.edition, why.strip()]})
        note_security("withdrawn", by=user, record=record.slug)
        announce("record", review=record.review_id, slug=record.slug)
    return record


def _stem(question: str) -> str:
    """The words of a question as far as an address has room for them; none is cut in two but a single long one."""
    whole = slugify(question)
    return whole if len(whole) <= _LONGEST else whole[: _LONGEST + 1].rpartition("-")[0] or whole[:_LONGEST]


def _slug(review: Review, edition: int) -> str:
    """A readable name of an edition that no other record has; all editions of a review share its stem."""
    first = review.records.order_by("edition").values_list("slug", flat=True).first()
    stem = first.rpartition("-")[0] if first else _stem(review.question) or f"review-{review.pk}"
    taken = set(Record.objects.exclude(review=review).filter(slug__startswith=stem).values_list("slug", flat=True))
    own, number = stem, 2
    while not first and any(slug.rpartition("-")[0] == own for slug in taken):
        own, number = f"{stem}-{number}", number + 1
    return f"{own}-{edition}"
