"""Work that a worker does in the background."""

import structlog
from django_tasks import task

from nomothet.server.upkeep.cleaning import clean
from nomothet.server.upkeep.mailing import mail_what_is_new

log = structlog.get_logger(__name__)


@task()
def clean_up() -> dict[str, int]:
    """Let go of what is over."""
    gone = clean()
    log.info("cleaned up", **gone)
    return dict(gone)


@task()
def send_letters() -> None:
    """Tell who wants it by e-mail what is new for them."""
    if sent := mail_what_is_new():
        log.info("letters sent", count=sent)
