"""Puts the captures of a review away when it is archived, and gets them out when it is brought back."""

from typing import Any

from django.dispatch import receiver

from nomothet.server.reviews.signals import archiving_changed
from nomothet.server.upkeep.tasks import tidy_captures


@receiver(archiving_changed)
def tidy(review: int, **_: Any) -> None:
    tidy_captures.enqueue(review)
