"""Has results made anew when a pass has come in or changed."""

from typing import Any

from django.db import transaction
from django.dispatch import receiver

from nomothet.server.passes.signals import pass_changed
from nomothet.server.standings.tasks import see_to_results


@receiver(pass_changed)
def make_anew(**_: Any) -> None:
    transaction.on_commit(see_to_results)
