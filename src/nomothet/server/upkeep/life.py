"""Signs of life of the parts that run apart from the server."""

from datetime import datetime, timedelta

from django.utils import timezone

from nomothet.server.upkeep.models import SignOfLife


def show_life(part: str, at: datetime | None = None) -> None:
    """Note that a part works."""
    SignOfLife.objects.update_or_create(part=part, defaults={"at": at or timezone.now()})


def last_sign(part: str) -> datetime | None:
    """When a part last worked; None when it never did."""
    return SignOfLife.objects.filter(part=part).values_list("at", flat=True).first()


def is_due(part: str, every: timedelta) -> bool:
    """Whether a part has not worked for so long, or never; a sign from the future counts as none."""
    last, now = last_sign(part), timezone.now()
    return last is None or last > now or now - last >= every
