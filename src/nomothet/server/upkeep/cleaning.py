"""Letting go of what nobody asks for any more; nothing that was measured, said or decided is among it."""

import shutil
import uuid
from collections import Counter
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from nomothet.server.feed.models import Change, Head
from nomothet.server.imports.jobs import finish
from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.people.models import Failures, OneTimeLink, Visit

# How long each is kept after it is over.
SESSIONS = timedelta(days=1)
LINKS = timedelta(days=90)
FAILURES = timedelta(days=7)
DONE_TASKS = timedelta(days=7)
FAILED_TASKS = timedelta(days=90)
OPEN_IMPORTS = timedelta(days=30)
STRAY_FILES = timedelta(days=2)
CHANGES = timedelta(days=30)
# Whoever was away for fewer changes than that goes on where they were.
CHANGES_KEPT = 20_000


def clean() -> Counter[str]:
    """Let go of everything that is over; returns how much, by kind."""
    now = timezone.now()
    gone: Counter[str] = Counter()
    gone["sessions"] = Visit.objects.filter(expire_date__lt=now - SESSIONS).delete()[0]
    gone["links"] = OneTimeLink.objects.filter(expires_at__lt=now - LINKS).delete()[0]
    gone["failures"] = Failures.objects.filter(last_at__lt=now - FAILURES).delete()[0]
    over = DBTaskResult.objects.filter
    gone["tasks"] = over(status=TaskResultStatus.SUCCESSFUL, finished_at__lt=now - DONE_TASKS).delete()[0]
    gone["tasks"] += over(status=TaskResultStatus.FAILED, finished_at__lt=now - FAILED_TASKS).delete()[0]
    head = Head.objects.filter(pk=1).values_list("number", flat=True).first() or 0
    gone["changes"] = Change.objects.filter(number__lt=head - CHANGES_KEPT, at__lt=now - CHANGES).delete()[0]
    gone["imports"] = _imports()
    gone["files"] = _stray_files()
    return +gone


def _imports() -> int:
    """Imports that were looked at and never started: broken off, as by hand."""
    old, gone = ImportJob.objects.filter(state=JobState.OPEN, at__lt=timezone.now() - OPEN_IMPORTS), 0
    for pk in list(old.values_list("pk", flat=True)):
        with transaction.atomic():
            job = ImportJob.objects.select_for_update().get(pk=pk)
            if job.state == JobState.OPEN:
                finish(job, JobState.CANCELLED)
                job.save(update_fields=["state", "over_at"])
                gone += 1
    return gone


def _stray_files() -> int:
    """Uploads whose import was never made, or is over."""
    folder, before, gone = Path(settings.IMPORTS), (timezone.now() - STRAY_FILES).timestamp(), 0
    if not folder.exists():
        return 0
    alive = {str(pk) for pk in ImportJob.objects.filter(over_at=None).values_list("pk", flat=True)}
    for child in folder.iterdir():
        if child.name not in alive and _is_id(child.name) and child.stat().st_mtime < before:
            shutil.rmtree(child, ignore_errors=True)
            gone += 1
    return gone


def _is_id(name: str) -> bool:
    try:
        uuid.UUID(name)
    except ValueError:
        return False
    return True
