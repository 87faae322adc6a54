"""Working findings out in the background, and telling open pages of it."""

import time

from django.core.cache import cache
from django.db import transaction
from django_tasks import task

from nomothet.server.feed.commands import announce
from nomothet.server.findings.kept import kept, state_of, work_out
from nomothet.server.meeting import tried_again
from nomothet.server.reviews.models import Review

# Passes that come in while the work is waiting to be done need no work of their own.
_WAITING_S = 60


@task()
@tried_again
def prepare_findings(review: int) -> None:
    """Work the findings of a review out, keep them and announce them."""
    # What comes in from here on is not in them, and wants work of its own.
    cache.delete(due_key(review))
    found = Review.objects.filter(pk=review).first()
    if found is None:
        return
    work_out(found)
    with transaction.atomic():
        announce("findings", review=review)


@task()
@tried_again
def prepare_all_findings() -> None:
    """The findings of every review that is not archived, where they are not kept."""
    for review in Review.objects.filter(archived_at=None):
        state = state_of(review)
        if kept(state) is None:
            work_out(review, state)


def see_to_findings(review: int) -> None:
    """Have the findings of a review worked out in the background, unless they wait for that already."""
    if cache.add(due_key(review), time.time(), _WAITING_S):
        prepare_findings.enqueue(review)


def due_key(review: int) -> str:
    """Where it stands since when the findings of a review wait to be worked out."""
    return f"findings-due-{review}"
