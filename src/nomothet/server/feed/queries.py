"""Reading the feed."""

import json

from nomothet.server.feed.models import Change, Head

_MOST = 500


def last_number() -> int:
    return Head.objects.filter(pk=1).values_list("number", flat=True).first() or 0


def events_after(number: int) -> list[tuple[int, str]]:
    """Changes after a number as server-sent events (WHATWG HTML, section 9.2), at most 500 at a time."""
    changes = Change.objects.filter(number__gt=number).order_by("number")[:_MOST]
    return [(change.number, _event(change)) for change in changes]


def _event(change: Change) -> str:
    data = json.dumps({"kind": change.kind, **change.payload})
    return f"id: {change.number}\nevent: change\ndata: {data}\n\n"
