"""Appending to the feed."""

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.models import Change, Head
from nomothet.server.feed.poller import wake

_TIDY_EVERY = 2000
_PROGRESS_KEPT = timedelta(hours=1)


def announce(kind: str, **payload: Any) -> int:
    """Append a change; called last in the transaction of the act that it tells of.

    A plain auto-increment number would not do: a transaction that took number 5 can commit after one that took 6, and
    a browser that has seen 6 would never ask for 5.
    """
    # The transaction that a test is rolled back with is not that of an act.
    blocks = transaction.get_connection().atomic_blocks
    if all(block._from_testcase for block in blocks):
        raise RuntimeError("a change is announced in the transaction of its act")
    head, _ = Head.objects.select_for_update().get_or_create(pk=1)
    head.number += 1
    head.save(update_fields=["number"])
    Change.objects.create(number=head.number, kind=kind, payload=payload)
    transaction.on_commit(wake)
    if head.number % _TIDY_EVERY == 0:
        # Progress is of use while a pass runs; all else stays.
        old = timezone.now() - _PROGRESS_KEPT
        Change.objects.filter(kind="progress", number__lt=head.number - _TIDY_EVERY, at__lt=old).delete()
    return head.number
