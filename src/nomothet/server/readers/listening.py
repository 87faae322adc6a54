"""Puts what readers have sent under their records."""

from typing import Any

from nomothet.server.readers.queries import shown_messages
from nomothet.server.readers.spam import TRAP, stamp
from nomothet.server.records.models import Record
from nomothet.server.records.questions import provide


def _under(record: Record) -> dict[str, Any]:
    found = shown_messages(record.review_id)
    return {
        "asked": [one for one in found if one.kind == "question"],
        "contributed": [one for one in found if one.kind == "result"],
        "stamp": stamp(),
        "trap": TRAP,
    }


provide(_under)
