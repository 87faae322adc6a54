"""Goes down a ladder when a pass of one of its rungs has come in or changed."""

from typing import Any

from django.db import transaction
from django.dispatch import receiver

from nomothet.server.ladders.models import Going
from nomothet.server.passes.signals import pass_changed


@receiver(pass_changed)
def look_further(test: int, column: int, **_: Any) -> None:
    # Read when it is wanted first: every command connects receivers, and few compute.
    from nomothet.server.ladders.tasks import go_down

    for going in Going.objects.filter(column=column).select_related("ladder"):
        if test in going.ladder.rungs:
            pk = going.pk
            transaction.on_commit(lambda pk=pk: go_down.enqueue(pk))  # type: ignore[misc]
