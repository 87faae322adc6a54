"""Work that a worker does in the background."""

from django_tasks import task

from nomothet.server.foreign.checking import check
from nomothet.server.foreign.models import ForeignRecord


@task()
def run_check(record: int) -> None:
    """Check a package that was brought in."""
    check(record)


def take_up_again() -> None:
    """Queue what a worker was killed over."""
    for pk in ForeignRecord.objects.filter(state=ForeignRecord.State.CHECKING).values_list("pk", flat=True):
        run_check.enqueue(pk)
