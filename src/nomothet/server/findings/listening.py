"""Works findings out anew in the background when a pass has come in or changed."""

import time
from typing import Any

from django.db import transaction
from django.dispatch import receiver

from nomothet.server.passes.signals import pass_changed
from nomothet.server.reviews.models import Test

# Many passes of a test come in by one act; one of them sees to the work. An act that was rolled back holds up so long.
_HELD_UP_S = 5.0
_seen_to: dict[int, float] = {}


@receiver(pass_changed)
def work_out_again(test: int, **_: Any) -> None:
    now = time.monotonic()
    if now - _seen_to.get(test, -_HELD_UP_S) >= _HELD_UP_S:
        _seen_to[test] = now
        transaction.on_commit(lambda: _see_to(test))


def _see_to(test: int) -> None:
    # Read when it is wanted first: every command connects receivers, and few compute.
    from nomothet.server.findings.tasks import see_to_findings

    _seen_to.pop(test, None)
    review = Test.objects.filter(pk=test).values_list("review_id", flat=True).first()
    if review is not None:
        see_to_findings(review)
