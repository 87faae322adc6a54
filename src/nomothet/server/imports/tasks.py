"""Work that a worker does in the background."""

import uuid

from django_tasks import task

from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.imports.running import run


@task()
def run_import(job_id: str) -> None:
    """Store the files of an import."""
    run(uuid.UUID(job_id))


def take_up_again() -> None:
    """Queue what a worker was killed over; what is stored already is passed over."""
    for job in ImportJob.objects.filter(state__in=[JobState.QUEUED, JobState.RUNNING]):
        run_import.enqueue(str(job.pk))
