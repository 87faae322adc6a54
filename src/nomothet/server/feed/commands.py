"""Appending to the feed."""

from typing import Any

from django.db import transaction

from nomothet.server.feed.models import Change, Head


def announce(kind: str, **payload: Any) -> int:
    """Append a change; called last in the transaction of the act that it tells of.

    A plain auto-increment number would not do: a transaction that took number 5 can commit after one that took 6, and
    a browser that has seen 6 would never ask for 5.
    """
    if not transaction.get_connection().in_atomic_block:
        raise RuntimeError("a change is announced in the transaction of its act")
    head, _ = Head.objects.select_for_update().get_or_create(pk=1)
    head.number += 1
    head.save(update_fields=["number"])
    Change.objects.create(number=head.number, kind=kind, payload=payload)
    return head.number
