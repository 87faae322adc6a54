"""What is to be watched on machines: noted, shown in every brief that uses them, ended."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.follow_ups.models import WatchItem
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict
from nomothet.server.systems.models import System


@dataclass(frozen=True)
class WatchItemShape:
    """Something to be watched on a machine."""

    id: int
    system: int
    system_name: str
    words: str
    by: str
    at: datetime
    ended_by: str
    ended_at: datetime | None


def watch_items(systems: Iterable[int], *, ended: bool = False) -> list[WatchItemShape]:
    """Those of some machines, the earliest first."""
    found = WatchItem.objects.filter(system__in=list(systems)).select_related("system", "by", "ended_by")
    return [watch_shape(one) for one in (found if ended else found.filter(ended_at=None))]


def watch(user: User, system: System, words: str) -> WatchItem:
    """Note something to be watched."""
    require(user, Act.EDIT_SYSTEMS)
    with transaction.atomic():
        made = WatchItem.objects.create(system=system, words=words, by=user)
        remember(user, "system", system.pk, "to be watched", {"words": [None, words]})
        announce("follow_ups")
    return made


def set_watched(user: User, one: WatchItem, watched: bool) -> WatchItem:
    """End it, or take it up again.

    Raises
    ------
    Problem
        409 when it is so already.
    """
    require(user, Act.EDIT_SYSTEMS)
    if (one.ended_at is None) == watched:
        raise conflict("It is watched already." if watched else "It is ended already.")
    one.ended_by, one.ended_at = (None, None) if watched else (user, timezone.now())
    with transaction.atomic():
        one.save()
        remember(
            user,
            "system",
            one.system_id,
            "watched again" if watched else "watched no longer",
            {"words": [None, one.words] if watched else [one.words, None]},
        )
        announce("follow_ups")
    return one


def watch_shape(one: WatchItem) -> WatchItemShape:
    return WatchItemShape(
        one.pk, one.system_id, one.system.name, one.words, one.by.display_name, one.at,
        one.ended_by.display_name if one.ended_by else "", one.ended_at,
    )  # fmt: skip
