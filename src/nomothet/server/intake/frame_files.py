"""Passes from files that people drop on a cell."""

import io
import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import BinaryIO

import numpy as np
import zstandard
from django.db import transaction

from nomothet.formats.frame_table import read_frame_table
from nomothet.formats.series import pack
from nomothet.server.analysis.commands import store_computed
from nomothet.server.analysis.computing import Captures, compute, declared_of
from nomothet.server.feed.commands import announce
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.file_pass import new_file_pass, store_series
from nomothet.server.passes.models import Pass
from nomothet.server.passes.quota import require_room
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Test
from nomothet.server.scanning import scan
from nomothet.server.systems.states import state_of
from nomothet.server.workloads.models import Kind

MOST_BYTES = 128 << 20
# Over an hour at a thousand frames a second.
MOST_FRAMES = 5_000_000


def import_frames(
    user: User,
    test: Test,
    column: Column,
    *,
    pass_id: uuid.UUID,
    file: BinaryIO,
    name: str,
    column_name: str | None = None,
    unit: str | None = None,
) -> Pass:
    """A file of frame times becomes a pass of a cell; the file itself is kept beside it.

    Sending the same file under the same id again changes nothing.
    """
    require(user, Act.IMPORT_PASSES)
    if test.workload.kind != Kind.SCENE:
        raise unusable("This test records scores or times, not frames; drop the file on a test of a scene.")
    if test.review_id != column.review_id:
        raise unusable("The test and the configuration belong to different reviews.")
    file.seek(0, 2)
    if file.tell() > MOST_BYTES:
        raise unusable(f"The file is over {MOST_BYTES >> 20} MiB. Cut it into runs and drop one at a time.")
    file.seek(0)
    existing = Pass.objects.filter(pk=pass_id).first()
    if existing is not None:
        if (existing.test_id, existing.column_id) != (test.pk, column.pk):
            raise conflict("This id belongs to a pass of another cell.")
        return existing
    scan(file)
    require_room(user)
    original = file.read()
    # Compressing, sorting and waiting for the database all let go of the interpreter's lock: the original is packed
    # while the numbers are read, and the figures are computed while the captures are stored.
    with ThreadPoolExecutor(2) as beside:
        kept = beside.submit(zstandard.compress, original, 1)
        table = read_frame_table(io.BytesIO(original), column=column_name, unit=unit)
        if len(table.frame_times_ms) > MOST_FRAMES:
            raise unusable(f"The file has over {MOST_FRAMES:,} frames. Cut it into runs and drop one at a time.")
        read = Captures(table.frame_times_ms, 0.0, [])
        declared = declared_of(test, Pass(environment={}), state_of(column.configuration))
        length_s = float(np.sum(table.frame_times_ms)) / 1000
        found = beside.submit(compute, test, Pass(duration_s=length_s), read, [], [], declared)
        frames = pack({"frame_ms": table.frame_times_ms})
        with transaction.atomic():
            owner = new_file_pass(
                user,
                test,
                column,
                pass_id,
                note=f"from the file {name}",
                duration_s=length_s,
                environment={"file": name, "column": table.column, "unit": table.unit, "read_as": table.kind},
            )
            store_series(owner, "frames", "frames", frames, unit="ms", source=f"file {name}")
            store_series(owner, "original", "file", kept.result(), source=name)
            store_computed(owner, found.result())
            announce_pass(owner)
            announce("docket", review=test.review_id)
    return owner
