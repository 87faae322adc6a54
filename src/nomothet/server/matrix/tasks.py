"""Preparing the matrix in the background, so that nobody waits for it."""

from django_tasks import task

from nomothet.server.docket.models import Entry, State
from nomothet.server.matrix.matrix import matrix
from nomothet.server.meeting import tried_again
from nomothet.server.reviews.models import Review


@task()
@tried_again
def prepare_matrix(review: int) -> None:
    """Compute what is not kept of a review's matrix."""
    found = Review.objects.filter(pk=review).first()
    if found is not None:
        matrix(found)


@task()
@tried_again
def prepare_all() -> None:
    """The same for every review that is not archived."""
    for pk in Review.objects.filter(archived_at=None).values_list("pk", flat=True):
        prepare_matrix.func(pk)


def is_waiting(review: int) -> bool:
    """Whether passes of a review are still owed or running."""
    return Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING]).exists()
