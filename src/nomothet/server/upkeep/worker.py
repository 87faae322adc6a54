"""The process that does heavy work in the background: one for an installation, or a few that share the work."""

import os
import signal
import threading
from datetime import timedelta
from typing import TYPE_CHECKING

import structlog

from nomothet.server.reading_code import read_later, set_up

if TYPE_CHECKING:
    from nomothet.server.upkeep.places import Place

_SIGN_EVERY_S = 5.0
# A ring may be lost, and processes on other machines do not ring.
_LOOK_EVERY_S = 1.0
_BETWEEN_TASKS_S = 0.1
_CLEAN_EVERY = timedelta(days=1)
_LETTERS_EVERY = timedelta(minutes=1)

log = structlog.get_logger(__name__)


def main() -> None:
    """Take up what an earlier worker was killed over, then work until a signal comes."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
    set_up()
    from nomothet.server import logs
    from nomothet.server.upkeep.places import Place
    from nomothet.server.upkeep.schedule import end_backup

    logs.configure()
    place = Place()
    _take_up(place)
    threading.Thread(target=_show_life, args=(place,), name="signs of life", daemon=True).start()
    try:
        read_later()
        _work(place)
    finally:
        end_backup()
        place.free()


def _work(place: "Place") -> None:
    """Do what is queued until a signal comes, and look again when somebody rings that there is more."""
    from django_tasks_db.management.commands.db_worker import Worker

    from nomothet.server.upkeep.ringing import WorkBell

    worker = Worker(
        queue_names=["default"], interval=_BETWEEN_TASKS_S, batch=True, backend_name="default", startup_delay=False,
        max_tasks=None, worker_id=place.worker_id, excluded_queue_names=[],
    )  # fmt: skip
    worker.configure_signals()
    bell = WorkBell()
    try:
        while True:
            # It comes back when the queue is empty, or a signal came.
            worker.run()
            if not worker.running:
                return
            bell.wait(_LOOK_EVERY_S)
    finally:
        bell.take_down()


def _take_up(place: "Place") -> None:
    """Queue what was left, and passes computed by an earlier version of the method."""
    from nomothet.server.analysis.tasks import recompute_old
    from nomothet.server.findings.tasks import prepare_all_findings
    from nomothet.server.foreign import tasks as foreign
    from nomothet.server.imports import tasks as imports
    from nomothet.server.matrix.tasks import prepare_all
    from nomothet.server.standings.tasks import prepare_results
    from nomothet.server.waiting import enqueue_once, resume_interrupted

    resumed = resume_interrupted(place.is_alive)
    imports.take_up_again()
    foreign.take_up_again()
    for whole in (recompute_old, prepare_all, prepare_all_findings, prepare_results):
        enqueue_once(whole)
    log.info("working", resumed=resumed, place=place.number)


def _show_life(place: "Place") -> None:
    """Say every few seconds that the worker is there, whatever it works on, and see to what is due."""
    from django.conf import settings
    from django.db import DatabaseError, connection

    from nomothet.server.upkeep.life import is_due, show_life
    from nomothet.server.upkeep.schedule import back_up_when_due
    from nomothet.server.upkeep.tasks import clean_up, send_letters
    from nomothet.server.waiting import enqueue_once

    while True:
        try:
            if not place.hold():
                # Another took it while the database was away, and believes that what this one has in hand is nobody's.
                log.error("the place was lost", place=place.number)
                os.kill(os.getpid(), signal.SIGTERM)
                return
            show_life("worker")
            if is_due("cleaning", _CLEAN_EVERY):
                show_life("cleaning")
                clean_up.enqueue()
            if settings.EMAIL_HOST and is_due("letters", _LETTERS_EVERY):
                show_life("letters")
                enqueue_once(send_letters)
            back_up_when_due()
        except DatabaseError as error:
            log.warning("no sign of life", reason=str(error))
        finally:
            # The thread's own; a broken one is made anew.
            connection.close()
        threading.Event().wait(_SIGN_EVERY_S)


if __name__ == "__main__":
    main()
