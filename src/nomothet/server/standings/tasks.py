"""Making results in the background, so that a standing that is opened finds them."""

from django.core.cache import cache
from django_tasks import task

from nomothet.server.standings.keeping import keep, stale_tests

# Passes that come in while the work waits to be done need no work of their own.
_WAITING_S = 60
_AT_ONCE = 20
_DUE = "standings-due"


@task()
def prepare_results() -> None:
    """Make all results that are not as their evidence is; what a killed worker leaves is found again."""
    cache.delete(_DUE)
    while tests := list(stale_tests().order_by("review_id", "pk").values_list("pk", flat=True)[:_AT_ONCE]):
        keep(tests)


def see_to_results() -> None:
    """Have results made in the background, unless that waits to be done already."""
    if cache.add(_DUE, True, _WAITING_S):
        prepare_results.enqueue()
