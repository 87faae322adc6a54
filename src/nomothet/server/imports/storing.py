"""A recording becomes a pass: frames, lanes, the file itself, and its figures."""

import hashlib
import uuid
from pathlib import Path

import numpy as np
import zstandard
from django.db import transaction
from django.utils import timezone

from nomothet.formats.column_maps import ColumnMap, Recording
from nomothet.formats.series import pack
from nomothet.formats.words import METHOD_VERSION
from nomothet.server.analysis.commands import recompute
from nomothet.server.docket.commands import next_number
from nomothet.server.feed.commands import announce
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Origin, Pass, Series
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test

# A piece of an original; the database takes packets of 128 MB, and a blob doubles on its way.
_PIECE = 32 << 20


def store_recording(
    user: User | None, test: Test, column: Column, pass_id: uuid.UUID, recording: Recording, path: Path, name: str,
    chosen: ColumnMap,
) -> Pass:  # fmt: skip
    """Store a recording as a pass of a cell; the same id again changes nothing."""
    existing = Pass.objects.filter(pk=pass_id).first()
    if existing is not None:
        return existing
    frames = recording.frame_times_ms
    now = timezone.now()
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=test.review_id)
        owner = Pass.objects.create(
            id=pass_id,
            test=test,
            column=column,
            number=next_number(test, column),
            origin=Origin.FILE,
            outcome="completed",
            note="; ".join([f"from the file {name}", *recording.remarks])[:2000],
            started_at=now,
            duration_s=recording.duration_s,
            whole_at=now,
            brought_by=user,
            environment={"file": name, "columns": [vars(use) for use in chosen.columns]},
            method_version=METHOD_VERSION,
        )
        if frames is not None:
            _series(owner, "frames", "frames", pack({"frame_ms": frames}), "ms", name).save()
        for at, sensor in enumerate(recording.sensors):
            lane = sensor.name[:70] if _is_first(recording, at) else f"{sensor.name[:70]} {at + 1}"
            blob = pack({"t_s": sensor.t_s, "value": np.round(sensor.value, 6)})
            series = _series(owner, lane, "sensor", blob, sensor.unit[:20], name)
            series.capacity = 100 if sensor.unit == "%" else None
            series.save()
        for at, piece in enumerate(_packed(path)):
            _series(owner, "original" if at == 0 else f"original {at + 1}", "file", piece, "", name).save()
        recompute(owner)
        announce_pass(owner)
        announce("docket", review=test.review_id)
    return owner


def _is_first(recording: Recording, at: int) -> bool:
    name = recording.sensors[at].name
    return all(one.name != name for one in recording.sensors[:at]) and name not in ("frames", "original")


def _packed(path: Path) -> list[bytes]:
    """The file itself in pieces that follow each other; each is compressed alone, so that each can be read alone."""
    with path.open("rb") as file:
        return [zstandard.compress(data, 3) for data in iter(lambda: file.read(_PIECE), b"")]


def _series(owner: Pass, name: str, kind: str, blob: bytes, unit: str, source: str) -> Series:
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
