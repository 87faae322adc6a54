"""How an installation is: each part well, unwell (it serves, but somebody should look) or failing (it does not)."""

import shutil
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import structlog
from django.conf import settings
from django.db import DatabaseError, connection
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from nomothet.core.notes import Note, note
from nomothet.server.upkeep.life import last_sign
from nomothet.server.upkeep.models import Backup, SignOfLife
from nomothet.server.upkeep.schema_state import schema_state

log = structlog.get_logger(__name__)

WELL, UNWELL, FAILING = "well", "unwell", "failing"
WORKER_SILENT = timedelta(seconds=30)
QUEUE_OLD = timedelta(minutes=15)
DISK_LEAST_BYTES = 1 << 30
DISK_LEAST_SHARE = 0.02
# Signs of life from further in the future than that mean that a clock went back.
CLOCK_OFF = timedelta(seconds=30)
_KEPT_S = 1.0
_SCHEMA_KEPT_S = 60.0


@dataclass(frozen=True)
class PartHealth:
    """A part's state; `notes` say what is wrong with it."""

    part: str
    state: str = WELL
    notes: list[Note] = field(default_factory=list)
    figures: dict[str, float] = field(default_factory=dict)


def health() -> list[PartHealth]:
    """Every part; that all is well may have been found a second ago: anybody may ask, as often as they like."""
    now = time.monotonic()
    if now - _kept.at > _KEPT_S or overall(_kept.parts) != WELL:
        _kept.at, _kept.parts = now, _look()
    return _kept.parts


def overall(parts: list[PartHealth]) -> str:
    """The worst state of all parts."""
    states = {part.state for part in parts}
    return next((state for state in (FAILING, UNWELL) if state in states), WELL)


class _Kept:
    def __init__(self) -> None:
        self.at = self.schema_at = float("-inf")
        self.parts: list[PartHealth] = []
        self.schema = PartHealth("schema")


_kept = _Kept()


def _look() -> list[PartHealth]:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
            cursor.fetchone()
        rest = [_schema(), *(look() for look in _AFTER_THE_SCHEMA)]
    except DatabaseError as error:
        log.error("database not reached", error=str(error))
        return [PartHealth("database", FAILING, [note("database_not_reached")]), _disk()]
    return [PartHealth("database"), *rest, _disk()]


def _schema() -> PartHealth:
    """Whether the tables fit the code; seldom looked at, as it takes a while."""
    if time.monotonic() - _kept.schema_at < _SCHEMA_KEPT_S:
        return _kept.schema
    state = schema_state()
    if state.unknown:
        found = PartHealth("schema", FAILING, [note("schema_newer", unknown=state.unknown[0])])
    elif state.missing:
        found = PartHealth("schema", FAILING, [note("schema_older", missing=state.missing[0])])
    else:
        found = PartHealth("schema")
    _kept.schema, _kept.schema_at = found, time.monotonic()
    return found


def _worker() -> PartHealth:
    last, now = last_sign("worker"), timezone.now()
    if last is None or now - last > WORKER_SILENT:
        silent_s = None if last is None else (now - last).total_seconds()
        return PartHealth("worker", UNWELL, [note("worker_silent", silent_s=silent_s)])
    return PartHealth("worker", figures={"silent_s": max(0.0, (now - last).total_seconds())})


def _queue() -> PartHealth:
    now = timezone.now()
    waiting = DBTaskResult.objects.ready()
    oldest: datetime | None = waiting.order_by("enqueued_at").values_list("enqueued_at", flat=True).first()
    figures = {
        "waiting": float(waiting.count()),
        "oldest_s": max(0.0, (now - oldest).total_seconds()) if oldest else 0.0,
        "failed": float(DBTaskResult.objects.filter(status=TaskResultStatus.FAILED).count()),
    }
    if oldest and now - oldest > QUEUE_OLD:
        old = note("queue_old", oldest_s=figures["oldest_s"], waiting=int(figures["waiting"]))
        return PartHealth("queue", UNWELL, [old], figures)
    return PartHealth("queue", figures=figures)


def _clock() -> PartHealth:
    """A sign of life from the future says that this machine's clock went back."""
    latest = SignOfLife.objects.order_by("-at").values_list("at", flat=True).first()
    ahead_s = (latest - timezone.now()).total_seconds() if latest else 0.0
    if ahead_s > CLOCK_OFF.total_seconds():
        return PartHealth("clock", UNWELL, [note("clock_went_back", ahead_s=ahead_s)])
    return PartHealth("clock")


def _backups() -> PartHealth:
    """Whether the backups that are made on a schedule are made; none is missed where none is wanted.

    Backups on the disk of the data are a note without harm to the state: whoever has one disk has no other choice.
    """
    every_h = settings.BACKUP_EVERY_H
    if not every_h:
        return PartHealth("backups")
    last = Backup.objects.filter(problem="").values_list("at", flat=True).first()
    begun = last_sign("installed")
    since = last or begun
    figures = {"age_s": (timezone.now() - last).total_seconds()} if last else {}
    if since is not None and timezone.now() - since > 2 * timedelta(hours=every_h):
        return PartHealth("backups", UNWELL, [note("backup_old", last=last.isoformat() if last else None)], figures)
    failed = Backup.objects.first()
    if failed is not None and failed.problem:
        return PartHealth("backups", UNWELL, [note("backup_failed", why=failed.problem)], figures)
    notes = [note("backups_beside", folder=str(settings.BACKUPS))] if _beside_the_data() else []
    return PartHealth("backups", WELL, notes, figures)


def _beside_the_data() -> bool:
    """Whether backups lie on the disk of the data, and are lost with it."""
    # The folder is made with the first backup.
    place = next((path for path in (settings.BACKUPS, *settings.BACKUPS.parents) if path.exists()), None)
    try:
        return place is not None and place.stat().st_dev == settings.VAR.stat().st_dev
    except OSError:
        return False


def _disk() -> PartHealth:
    usage = shutil.disk_usage(settings.VAR if settings.VAR.exists() else settings.PROJECT)
    figures: dict[str, float] = {"free_bytes": float(usage.free), "total_bytes": float(usage.total)}
    if usage.free < DISK_LEAST_BYTES or usage.free < DISK_LEAST_SHARE * usage.total:
        return PartHealth("disk", UNWELL, [note("disk_nearly_full", free_bytes=usage.free)], figures)
    return PartHealth("disk", figures=figures)


_AFTER_THE_SCHEMA: tuple[Callable[[], PartHealth], ...] = (_worker, _queue, _clock, _backups)


def told(parts: list[PartHealth]) -> dict[str, Any]:
    """What anybody may know: the states by part, without figures."""
    return {"status": overall(parts), "parts": {part.part: part.state for part in parts}}
