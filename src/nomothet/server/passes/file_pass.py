"""What all passes that come from files have in common: the pass itself, and captures that are whole at once."""

import hashlib
import uuid
from datetime import UTC, datetime
from typing import Any

from django.utils import timezone

from nomothet.formats.words import METHOD_VERSION
from nomothet.server.docket.commands import number_for
from nomothet.server.passes.first_runs import group_of
from nomothet.server.passes.models import IN_ONE_ROW, PIECE, Chunk, Origin, Pass, Series
from nomothet.server.passes.stamping import stamped
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test


def new_file_pass(
    user: User | None, test: Test, column: Column, pass_id: uuid.UUID, *,
    note: str, duration_s: float, environment: dict[str, Any], began_s: float | None = None,
) -> Pass:  # fmt: skip
    """A completed pass that settles what is owed in its cell; within a transaction, which holds the review to its end.

    It began when its file says; else it counts from now.
    """
    Review.objects.select_for_update().get(pk=test.review_id)
    now = timezone.now()
    started = now if began_s is None else datetime.fromtimestamp(began_s, UTC)
    return Pass.objects.create(
        id=pass_id,
        test=test,
        column=column,
        number=number_for(test, column, pass_id),
        origin=Origin.FILE,
        outcome="completed",
        note=note[:2000],
        started_at=started,
        run_group=group_of(test, column, started),
        duration_s=duration_s,
        whole_at=now,
        brought_by=user,
        environment=stamped(environment, test, column),
        method_version=METHOD_VERSION,
    )


def store_series(
    owner: Pass, name: str, kind: str, blob: bytes, *, unit: str = "", source: str = "", capacity: float | None = None
) -> Series:
    """Store a capture that has arrived in one, a long one in pieces."""
    made = Series(
        owner=owner,
        name=name,
        kind=kind,
        unit=unit,
        source=source[:160],
        capacity=capacity,
        size=len(blob),
        received=len(blob),
        sha256=hashlib.sha256(blob).hexdigest(),
        blob=blob if len(blob) <= IN_ONE_ROW else None,
    )
    made.save()
    _keep_pieces(made, blob)
    return made


def keep_blob(series: Series, blob: bytes) -> None:
    """Keep the bytes of a series in the database: in its row, or in pieces where they are long."""
    series.blob = blob if len(blob) <= IN_ONE_ROW else None
    series.save(update_fields=["blob", "stored_as", "pack", "pack_offset"])
    _keep_pieces(series, blob)


def _keep_pieces(series: Series, blob: bytes) -> None:
    if series.blob is None:
        for offset in range(0, len(blob), PIECE):
            Chunk.objects.create(series=series, offset=offset, data=blob[offset : offset + PIECE])
