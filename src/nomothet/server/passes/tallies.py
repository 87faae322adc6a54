"""Keeping what the passes of tests amount to, so that lists and plans over many reviews count no passes."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

from django.db import transaction
from django.db.models import Avg, Count, F, Max, Q, QuerySet, Sum

from nomothet.core.noise import pooled_noise
from nomothet.core.passes import Scale
from nomothet.server.feed.in_order import InOrder, last_change
from nomothet.server.meeting import tried_again
from nomothet.server.passes.models import Figure, Tally, TestNoise, kept_when
from nomothet.server.reviews.models import Test

_AT_ONCE = 500
_SCALES: tuple[Scale, ...] = ("ratio", "difference")
_WHOLE = Q(passes__whole_at__isnull=False)
_KEPT = kept_when("passes__")
_IN_ORDER = InOrder()


def tallies() -> QuerySet[Tally]:
    """The tallies of all tests, true as of now; two queries while nothing has changed."""
    refresh_all()
    return Tally.objects.all()


def refresh_all() -> None:
    """Make all tallies anew that are not as their evidence is; one query while nothing has changed."""
    now = last_change()
    if not _IN_ORDER.still(now) and not _refresh(Test.objects.all()):
        _IN_ORDER.found(now)


def refresh(tests: QuerySet[Test]) -> None:
    """Make the tallies of tests anew that are not as their evidence is; what changes meanwhile is stale again."""
    if not _IN_ORDER.still(last_change()):
        _refresh(tests)


def _refresh(tests: QuerySet[Test]) -> int:
    """How many had to be made."""
    stale = list(tests.exclude(tally__stamp=F("stamp")).order_by("pk").values_list("pk", flat=True))
    for at in range(0, len(stale), _AT_ONCE):
        _make(stale[at : at + _AT_ONCE])
    return len(stale)


# Whoever looks at a list may have kept others by now, so that the request as a whole is not repeated.
@tried_again
def _make(tests: Sequence[int]) -> None:
    # Read first, and without a lock on the tests, which whoever brings in a pass would wait for: what comes in after
    # this has another stamp, and makes the tally stale again.
    found = Test.objects.filter(pk__in=tests).only("stamp", "workload", "review").in_bulk()
    rates = {
        test: (count, mean)
        for test, count, mean in Figure.objects.kept()
        .filter(owner__test__in=tests, metric="average_fps")
        .values("owner__test")
        .annotate(count=Count("pk"), mean=Avg("value"))
        .values_list("owner__test", "count", "mean")
    }
    counted = Test.objects.filter(pk__in=found).annotate(
        last_at=Max("passes__started_at", filter=_WHOLE),
        kept=Count("passes", filter=_KEPT),
        timed=Count("passes__duration_s", filter=_KEPT),
        timed_s=Sum("passes__duration_s", filter=_KEPT),
    )
    made = []
    for test, last_at, kept, timed, timed_s in counted.order_by("pk").values_list(
        "pk", "last_at", "kept", "timed", "timed_s"
    ):
        rated, rate = rates.get(test, (0, 0.0))
        made.append(
            Tally(
                test_id=test, workload_id=found[test].workload_id, review_id=found[test].review_id,
                stamp=found[test].stamp, last_at=last_at, kept=kept, timed=timed, timed_s=timed_s or 0.0, rated=rated,
                rate_sum_fps=rated * rate,
            )
        )  # fmt: skip
    names = [one.name for one in Tally._meta.concrete_fields if not one.primary_key]
    noises = list(_noises(found))
    with transaction.atomic():
        # Of two that make the same, one waits here for the other.
        Tally.objects.bulk_create(made, update_conflicts=True, update_fields=names)
        TestNoise.objects.filter(test__in=tests).delete()
        TestNoise.objects.bulk_create(noises)


def _noises(tests: Mapping[int, Test]) -> Iterable[TestNoise]:
    """On both scales, as it is the review that says on which a metric is judged."""
    figures = (
        Figure.objects.kept()
        .filter(owner__test__in=list(tests), thin=False, half_width__isnull=False)
        .exclude(method="remembered")
        .order_by("pk")
    )
    cells: dict[tuple[int, str], dict[int, list[float]]] = defaultdict(lambda: defaultdict(list))
    for test, metric, column, value in figures.values_list("owner__test", "metric", "owner__column", "value"):
        cells[test, metric][column].append(value)
    for (test, metric), by_column in cells.items():
        for scale in _SCALES:
            held = [[one for one in values if scale != "ratio" or one > 0] for values in by_column.values()]
            noise = pooled_noise(held, scale)
            if noise.df:
                yield TestNoise(
                    test_id=test, workload_id=tests[test].workload_id, review_id=tests[test].review_id, metric=metric,
                    scale=scale, squares=noise.sd**2 * noise.df, df=noise.df,
                )  # fmt: skip
