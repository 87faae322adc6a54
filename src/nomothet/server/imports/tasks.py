"""Work that a worker does in the background."""

import uuid

from django.db import transaction
from django_tasks import task

from nomothet.server.imports.jobs import is_wanted
from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.imports.running import run
from nomothet.server.meeting import tried_again
from nomothet.server.waiting import arguments_given_up, arguments_waiting


@task()
@tried_again
def run_import(job_id: str) -> None:
    """Store the files of an import."""
    run(uuid.UUID(job_id))


def take_up_again() -> None:
    """Queue what a worker was killed over; what is stored already is passed over, and so is a file over which worker
    after worker has ended."""
    waiting, given_up = arguments_waiting(run_import), arguments_given_up(run_import)
    for job in ImportJob.objects.filter(state__in=[JobState.QUEUED, JobState.RUNNING]):
        if str(job.pk) in waiting:
            continue
        if str(job.pk) in given_up:
            _pass_over(job.pk)
        run_import.enqueue(str(job.pk))


def _pass_over(job_id: uuid.UUID) -> None:
    """Leave out the file that comes next: it is the one that was being stored."""
    with transaction.atomic():
        job = ImportJob.objects.select_for_update().get(pk=job_id)
        for item in job.items:
            if is_wanted(item) and item["state"] == "waiting":
                item |= {"state": "failed", "problem": "Storing it has ended the worker again and again."}
                break
        job.save(update_fields=["items"])
