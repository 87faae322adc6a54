"""Work that a worker does in the background."""

from django_tasks import task

from nomothet.server.foreign.checking import check
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.meeting import tried_again
from nomothet.server.waiting import arguments_given_up, arguments_waiting


@task()
@tried_again
def run_check(record: int) -> None:
    """Check a package that was brought in."""
    check(record)


def take_up_again() -> None:
    """Queue what a worker was killed over, but for a package over which worker after worker has ended."""
    checking = ForeignRecord.objects.filter(state=ForeignRecord.State.CHECKING)
    checking.filter(pk__in=arguments_given_up(run_check)).exclude(pk__in=arguments_waiting(run_check)).update(
        state=ForeignRecord.State.REFUSED, problem="Checking it has ended the worker again and again."
    )
    for pk in checking.exclude(pk__in=arguments_waiting(run_check)).values_list("pk", flat=True):
        run_check.enqueue(pk)
