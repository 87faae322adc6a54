"""Backups on a schedule."""

import subprocess
import sys
from datetime import timedelta

import structlog
from django.conf import settings

from nomothet.server.upkeep.life import is_due, show_life

_running: "subprocess.Popen[bytes] | None" = None

log = structlog.get_logger(__name__)


def back_up_when_due() -> None:
    """Begin a backup when the last one was begun long enough ago; in a process of its own, which tells how it went."""
    global _running
    if _running is not None and _running.poll() is None:
        return
    every = timedelta(hours=settings.BACKUP_EVERY_H)
    # A fresh installation has nothing to lose yet.
    if not every or not is_due("backup", every) or not is_due("installed", every):
        return
    show_life("backup")
    log.info("backing up")
    port = str(settings.DATABASES["default"]["PORT"])
    command = [sys.executable, "-m", "nomothet.server.launch.terminal", "--database-port", port, "backup"]
    # How it went stands in the list of backups; its words are for a terminal.
    nowhere = subprocess.DEVNULL
    _running = subprocess.Popen(
        [*command, "--keep", str(settings.BACKUPS_KEPT)], stdin=nowhere, stdout=nowhere, stderr=nowhere
    )


def end_backup() -> None:
    """A backup that is under way ends with the worker; the next one begins when it is due."""
    if _running is not None and _running.poll() is None:
        _running.terminate()
        _running.wait()
