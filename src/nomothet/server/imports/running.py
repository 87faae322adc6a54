"""Storing the files of an import, one after the other; begun again, it goes on where it was."""

import uuid
from typing import Any

from django.db import transaction

from nomothet.core.errors import MethodError
from nomothet.formats.errors import FormatError
from nomothet.formats.recordings import read_recording
from nomothet.server.feed.commands import announce
from nomothet.server.imports import archive
from nomothet.server.imports.foretelling import map_of
from nomothet.server.imports.jobs import finish, is_wanted, upload_path
from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.imports.storing import store_recording
from nomothet.server.reviews.models import Column, Test
from nomothet.words import says


def run(job_id: uuid.UUID) -> None:
    """Store the files of a job one after the other; begun again, it goes on where it was."""
    with transaction.atomic():
        job = ImportJob.objects.select_for_update().get(pk=job_id)
        if job.state not in (JobState.QUEUED, JobState.RUNNING):
            return
        job.state = JobState.RUNNING
        job.save(update_fields=["state"])
    for at, item in enumerate(job.items):
        if not is_wanted(item) or item["state"] != "waiting":
            continue
        if ImportJob.objects.filter(pk=job_id, cancel_wanted=True).exists():
            break
        _note(job_id, at, _store_item(job, at, item))
    with transaction.atomic():
        job = ImportJob.objects.select_for_update().get(pk=job_id)
        finish(job, JobState.CANCELLED if job.cancel_wanted else JobState.DONE)
        job.save()
        announce("imports", review=job.review_id, id=str(job.pk))


def _store_item(job: ImportJob, at: int, item: dict[str, Any]) -> dict[str, Any]:
    chosen = map_of(item)
    pass_id = uuid.uuid5(job.pk, f"{at} {item['name']}")
    try:
        test = Test.objects.select_related("review", "workload").get(pk=item["test"])
        column = Column.objects.get(pk=item["column"])
        with archive.opened(upload_path(job.pk), item["name"]) as path:
            recording = read_recording(path, chosen)
            store_recording(job.by, test, column, pass_id, recording, path, item["name"], chosen)
    except (FormatError, MethodError) as error:
        return {"state": "failed", "problem": str(error)}
    except (Test.DoesNotExist, Column.DoesNotExist):
        return {"state": "failed", "problem": "Its cell is not in the review any more."}
    return {"state": "stored", "pass_id": str(pass_id), "remarks": says(recording.remarks)}


def _note(job_id: uuid.UUID, at: int, outcome: dict[str, Any]) -> None:
    with transaction.atomic():
        job = ImportJob.objects.select_for_update().get(pk=job_id)
        job.items[at] = {**job.items[at], **outcome}
        job.save(update_fields=["items"])
        announce("imports", review=job.review_id, id=str(job.pk))
