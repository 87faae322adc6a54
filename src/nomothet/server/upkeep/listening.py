"""What is done in the background when something changes elsewhere, and that workers hear of it."""

from typing import Any

from django.db import transaction
from django.dispatch import receiver
from django_tasks.signals import task_enqueued

from nomothet.server.reviews.signals import archiving_changed
from nomothet.server.upkeep.ringing import ring_for_work


@receiver(archiving_changed)
def tidy(review: int, **_: Any) -> None:
    """Put the captures of a review away when it is archived, and get them out when it is brought back."""
    # Read when it is wanted first: every command connects receivers.
    from nomothet.server.upkeep.tasks import tidy_captures

    tidy_captures.enqueue(review)


@receiver(task_enqueued)
def tell_workers(**_: Any) -> None:
    """A worker sees what is queued once it is stored."""
    transaction.on_commit(ring_for_work)
