"""Reading history."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.server.history.models import Event

_MOST = 200


@dataclass(frozen=True)
class FieldChange:
    field: str
    before: Any
    after: Any


@dataclass(frozen=True)
class EventShape:
    """One act on an object."""

    id: int
    act: str
    by: str
    at: datetime
    changes: list[FieldChange]


def history(kind: str, object_id: int) -> list[EventShape]:
    """What was done to an object, the latest first; at most 200 acts."""
    events = Event.objects.filter(kind=kind, object_id=object_id).select_related("by")[:_MOST]
    return [
        EventShape(
            event.pk,
            event.act,
            event.by.display_name if event.by else "the demo",
            event.at,
            [FieldChange(field, before, after) for field, (before, after) in event.changes.items()],
        )
        for event in events
    ]
