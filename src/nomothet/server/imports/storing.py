"""A recording becomes a pass: frames, lanes, the file itself, and its figures."""

import uuid
from pathlib import Path

import numpy as np
import zstandard
from django.db import transaction

from nomothet.formats.column_maps import ColumnMap
from nomothet.formats.recordings import Recording
from nomothet.formats.series import pack
from nomothet.server.analysis.commands import recompute
from nomothet.server.feed.commands import announce
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.file_pass import new_file_pass, store_series
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Test
from nomothet.words import says

# What an original is cut into, so that no more than this of it is held in memory.
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
    with transaction.atomic():
        owner = new_file_pass(
            user,
            test,
            column,
            pass_id,
            note="; ".join([f"from the file {name}", *says(recording.remarks)]),
            began_s=recording.began_s,
            duration_s=recording.duration_s,
            environment={"file": name, "columns": [vars(use) for use in chosen.columns], "every_s": chosen.every_s},
        )
        if frames is not None:
            store_series(owner, "frames", "frames", pack({"frame_ms": frames}), unit="ms", source=name)
        for at, sensor in enumerate(recording.sensors):
            lane = sensor.name[:70] if _is_first(recording, at) else f"{sensor.name[:70]} {at + 1}"
            blob = pack({"t_s": sensor.t_s, "value": np.round(sensor.value, 6)})
            capacity = 100 if sensor.unit == "%" else None
            store_series(owner, lane, "sensor", blob, unit=sensor.unit[:20], source=name, capacity=capacity)
        for at, piece in enumerate(_packed(path)):
            store_series(owner, "original" if at == 0 else f"original {at + 1}", "file", piece, source=name)
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
