"""An import as a job: where its upload lies, which of its files are wanted, and its end."""

import shutil
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from nomothet.server.imports.models import ImportJob, JobState


def upload_path(job_id: uuid.UUID) -> Path:
    return Path(settings.IMPORTS) / str(job_id) / "upload"


def is_wanted(item: dict[str, Any]) -> bool:
    return not item["problem"] and item["test"] is not None and item["column"] is not None


def finish(job: ImportJob, state: JobState) -> None:
    """The import is over; its upload is let go of."""
    job.state, job.over_at = state, timezone.now()
    shutil.rmtree(upload_path(job.pk).parent, ignore_errors=True)
