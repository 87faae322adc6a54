"""What all passes that come from files have in common: the pass itself, and captures that are whole at once."""

import hashlib
import uuid
from datetime import UTC, datetime
from typing import Any

from django.utils import timezone

from nomothet.formats.words import METHOD_VERSION
from nomothet.server.docket.commands import next_number
from nomothet.server.passes.models import Origin, Pass, Series
from nomothet.server.passes.stamping import stamped
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test


def new_file_pass(
    user: User | None, test: Test, column: Column, pass_id: uuid.UUID, *,
    note: str, duration_s: float, environment: dict[str, Any], began_s: float | None = None,
) -> Pass:  # fmt: skip
    """A completed pass with the next number of its cell; within a transaction, which holds the review until it ends.

    It began when its file says; else it counts from now.
    """
    Review.objects.select_for_update().get(pk=test.review_id)
    now = timezone.now()
    return Pass.objects.create(
        id=pass_id,
        test=test,
        column=column,
        number=next_number(test, column),
        origin=Origin.FILE,
        outcome="completed",
        note=note[:2000],
        started_at=now if began_s is None else datetime.fromtimestamp(began_s, UTC),
        duration_s=duration_s,
        whole_at=now,
        brought_by=user,
        environment=stamped(environment, test, column),
        method_version=METHOD_VERSION,
    )


def whole_series(owner: Pass, name: str, kind: str, blob: bytes, *, unit: str = "", source: str = "") -> Series:
    """A capture that has arrived in one; not saved yet."""
    return Series(
        owner=owner,
        name=name,
        kind=kind,
        unit=unit,
        source=source[:160],
        size=len(blob),
        received=len(blob),
        sha256=hashlib.sha256(blob).hexdigest(),
        blob=blob,
    )
