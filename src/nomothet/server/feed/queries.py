"""Reading the feed."""

import json
from datetime import datetime
from typing import Any

from django.db import connection

from nomothet.server.feed.models import Change

_MOST = 500
_LOOKED_BACK = 20_000


def last_number() -> int:
    """The number of the last change; asked several times a second by every process, and so as plain SQL."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT number FROM feed_head WHERE id = 1")
        found = cursor.fetchone()
    return int(found[0]) if found else 0


def events_after(number: int) -> list[tuple[int, str]]:
    """Changes after a number as server-sent events (WHATWG HTML, section 9.2), at most 500 at a time."""
    changes = Change.objects.filter(number__gt=number).order_by("number")[:_MOST]
    return [(change.number, _event(change)) for change in changes]


def changes_since(kind: str, since: datetime, **payload: int) -> list[dict[str, Any]]:
    """Payloads of one kind of change since a moment, of the last few thousand changes, oldest first.

    Parameters
    ----------
    payload : int
        Members that the payload must have, such as ``entry=7``.
    """
    wanted = {f"payload__{name}": value for name, value in payload.items()}
    recent = Change.objects.filter(number__gt=last_number() - _LOOKED_BACK, kind=kind, at__gte=since, **wanted)
    return list(recent.order_by("number").values_list("payload", flat=True))


def _event(change: Change) -> str:
    data = json.dumps({"kind": change.kind, **change.payload})
    return f"id: {change.number}\nevent: change\ndata: {data}\n\n"
