"""Work that a worker does in the background."""

import structlog
from django_tasks import task

from nomothet.server.upkeep.cleaning import clean

log = structlog.get_logger(__name__)


@task()
def clean_up() -> dict[str, int]:
    """Let go of what is over."""
    gone = clean()
    log.info("cleaned up", **gone)
    return dict(gone)
