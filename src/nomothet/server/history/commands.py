"""Writing history."""

from collections.abc import Mapping
from typing import Any

from nomothet.server.history.models import Event
from nomothet.server.people.models import User
from nomothet.server.shapes import plain


def remember(user: User | None, kind: str, object_id: int, act: str, changes: Mapping[str, Any] | None = None) -> None:
    """Note an act; called in the transaction of the act."""
    Event.objects.create(kind=kind, object_id=object_id, act=act, changes=plain(dict(changes or {})), by=user)


def changed(before: Mapping[str, Any], after: Mapping[str, Any]) -> dict[str, list[Any]]:
    """The fields that differ, each with its value before and after."""
    return {name: [before.get(name), value] for name, value in after.items() if before.get(name) != value}
