"""Has results made anew when a pass has come in or changed."""

from typing import Any

from django.db import transaction
from django.dispatch import receiver

from nomothet.server.passes.signals import pass_changed


@receiver(pass_changed)
def make_anew(**_: Any) -> None:
    # Read when it is wanted first: every command connects receivers, and few compute.
    from nomothet.server.standings.tasks import see_to_results

    transaction.on_commit(see_to_results)
