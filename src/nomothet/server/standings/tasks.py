"""Making results in the background, so that a standing that is opened finds them."""

from django.core.cache import cache
from django_tasks import task

from nomothet.server.standings.keeping import keep, stale_tests

# Passes that come in while the work waits to be done need no work of their own.
_WAITING_S = 60
_AT_ONCE = 20
# So many tests are made while somebody waits; more are made in the background.
_MADE_AT_ONCE = 8
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


def make_what_is_stale(key: str = "") -> int:
    """Make a few results while somebody waits, of one workload or of all; gives how many tests are left to the
    background."""
    stale = stale_tests().order_by("-pk")
    if key:
        stale = stale.filter(workload__key=key)
    left = stale.count()
    if 0 < left <= _MADE_AT_ONCE:
        keep(list(stale.values_list("pk", flat=True)))
        return 0
    if left:
        see_to_results()
    return left
