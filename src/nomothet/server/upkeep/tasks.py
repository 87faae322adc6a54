"""Work that a worker does in the background."""

from dataclasses import asdict

import structlog
from django.db import transaction
from django_tasks import task

from nomothet.server.feed.commands import announce
from nomothet.server.meeting import tried_again
from nomothet.server.passes.putting_away import get_out, put_away, reviews_to_tidy
from nomothet.server.reviews.models import Review
from nomothet.server.upkeep.cleaning import clean
from nomothet.server.upkeep.mailing import mail_what_is_new

log = structlog.get_logger(__name__)


@task()
@tried_again
def clean_up() -> dict[str, int]:
    """Let go of what is over, and tidy the captures of reviews where that was broken off."""
    gone = clean()
    log.info("cleaned up", **gone)
    for reviews in reviews_to_tidy():
        for review in reviews:
            tidy_captures.enqueue(review)
    return dict(gone)


@task()
@tried_again
def tidy_captures(review: int) -> None:
    """Put the captures of a review away, or get them out, whichever its state asks for."""
    archived = Review.objects.filter(pk=review, archived_at__isnull=False).exists()
    told = (put_away if archived else get_out)(review)
    if told.captures or told.wrong:
        log.info("captures put away" if archived else "captures got out", review=review, **asdict(told))
        with transaction.atomic():
            announce("review", review=review)


@task()
@tried_again
def send_letters() -> None:
    """Tell who wants it by e-mail what is new for them."""
    if sent := mail_what_is_new():
        log.info("letters sent", count=sent)
