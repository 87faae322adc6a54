"""How much one person may bring in within a day, so that nobody fills the disk alone (ASVS 4.0, 12.1.3)."""

from datetime import timedelta

from django.conf import settings
from django.db.models import Sum
from django.utils import timezone

from nomothet.server.passes.models import Series
from nomothet.server.people.models import User
from nomothet.server.problems import Problem

_GIB = 1 << 30


def require_room(user: User) -> None:
    """Refuse another file of somebody who has brought in too much within a day.

    Raises
    ------
    Problem
        429 with how much it was and what may be done.
    """
    since = timezone.now() - timedelta(days=1)
    brought = Series.objects.filter(owner__brought_by=user, owner__whole_at__gte=since).aggregate(sum=Sum("size"))
    bytes_brought = int(brought["sum"] or 0)
    if bytes_brought > settings.GIB_A_DAY * _GIB:
        raise Problem(
            429,
            "Enough for a day",
            f"You have brought in {bytes_brought / _GIB:.1f} GiB of captures within a day; a person may bring in "
            f"{settings.GIB_A_DAY:g}. Go on tomorrow, or ask an admin to raise NOMOTHET_GIB_A_DAY.",
        )
