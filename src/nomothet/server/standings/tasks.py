"""Making results in the background, so that a standing that is opened finds them."""

import structlog
from django.core.cache import cache
from django_tasks import task

from nomothet.server.feed.in_order import InOrder, last_change
from nomothet.server.meeting import tried_again
from nomothet.server.standings.keeping import keep, stale_tests

# Passes that come in while the work waits to be done need no work of their own.
_WAITING_S = 60
_AT_ONCE = 20
# So many tests are made while somebody waits; more are made in the background.
_MADE_AT_ONCE = 8
_DUE = "standings-due"
_IN_ORDER = InOrder()

log = structlog.get_logger(__name__)


@task()
@tried_again
def prepare_results() -> None:
    """Make all results that are not as their evidence is; what a killed worker leaves is found again."""
    cache.delete(_DUE)
    failed: set[int] = set()
    while tests := _next(failed):
        try:
            keep(tests)
        except Exception:
            # One that cannot be made keeps none of the others from being made; its like is tried alone.
            failed |= _made_one_by_one(tests)


def _next(without: set[int]) -> list[int]:
    stale = stale_tests().exclude(pk__in=without).order_by("review_id", "pk")
    return list(stale.values_list("pk", flat=True)[:_AT_ONCE])


def _made_one_by_one(tests: list[int]) -> set[int]:
    """Make results a test at a time; gives those that cannot be made, which the log tells of."""
    failed = set()
    for test in tests:
        try:
            keep([test])
        except Exception:
            log.exception("results cannot be made", test=test)
            failed.add(test)
    return failed


def see_to_results() -> None:
    """Have results made in the background, unless that waits to be done already."""
    if cache.add(_DUE, True, _WAITING_S):
        prepare_results.enqueue()


def make_what_is_stale(*keys: str, review: int | None = None) -> int:
    """Make a few results while somebody waits, of these workloads, one review or of all; gives how many tests are left
    to the background. One query while nothing has changed since none was left of all."""
    now = last_change()
    if _IN_ORDER.still(now):
        return 0
    stale = stale_tests().order_by("-pk")
    if keys:
        stale = stale.filter(workload__key__in=keys)
    if review is not None:
        stale = stale.filter(review=review)
    left = stale.count()
    if 0 < left <= _MADE_AT_ONCE:
        keep(list(stale.values_list("pk", flat=True)))
        return 0
    if left:
        see_to_results()
    elif not keys and review is None:
        _IN_ORDER.found(now)
    return left
