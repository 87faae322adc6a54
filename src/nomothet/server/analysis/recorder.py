"""What recording costs: pairs of passes without and with the recorder, and the correction they give (section 13)."""

from collections import defaultdict
from dataclasses import dataclass

from nomothet.core.overhead import recorder_overhead
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.passes.models import Figure
from nomothet.server.people.models import User
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.shown import metric_of

MOST_PAIRS = 10


@dataclass(frozen=True)
class RecorderFactorShape:
    """`k = y_on / y_off` of one test, by its leading metric."""

    test: int
    label: str
    k: float
    change_pct: float
    low: float | None
    high: float | None
    pairs: int


@dataclass(frozen=True)
class OverheadShape:
    """The factors of a review's tests and the correction over all of them; `refused` says why there is none."""

    tests: list[RecorderFactorShape]
    k: float | None
    change_pct: float | None
    refused: str


def ask_for_pairs(user: User, review: Review, test: int, column: int, pairs: int) -> int:
    """Put pairs of passes on the docket, without and with the recorder in turns; returns how many passes."""
    if not 1 <= pairs <= MOST_PAIRS:
        raise unusable(f"Ask for 1 to {MOST_PAIRS} pairs.", field="pairs")
    # Turning the order round in every second pair keeps a drift out of the factor.
    turns = [word for at in range(pairs) for word in (("off", "on") if at % 2 == 0 else ("on", "off"))]
    return len(ask_for_passes(user, review, [test], [column], 2 * pairs, recorder=turns))


def overhead_of(review: Review) -> OverheadShape:
    """What the pairs of a review show; two queries."""
    tests = {test.pk: test for test in review.tests.select_related("workload") if test.shown}
    leading = {pk: metric_of(test, test.shown[0], review.low_definition) for pk, test in tests.items()}
    values: dict[int, dict[tuple[int, str], list[float]]] = defaultdict(lambda: defaultdict(list))
    figures = Figure.objects.filter(
        owner__test__review=review,
        owner__outcome="completed",
        owner__set_aside=False,
        owner__whole_at__isnull=False,
    ).exclude(owner__recorder="")
    rows = figures.order_by("owner__number").values_list(
        "owner__test_id", "owner__column_id", "owner__recorder", "metric", "value"
    )
    for test, column, recorder, metric, value in rows:
        if test in leading and metric == leading[test].key and leading[test].scale == "ratio" and value > 0:
            values[test][column, recorder].append(value)
    named = {pk: f"{test.workload.name}, {test.detail}" for pk, test in tests.items()}
    pairs = {named[test]: both for test, cells in values.items() if (both := _paired(cells))[0]}
    if not pairs:
        return OverheadShape([], None, None, "no pair of passes without and with the recorder has been run")
    found = recorder_overhead(pairs)
    shapes = [
        RecorderFactorShape(pk, leading[pk].label, one.k, one.change_pct, one.low, one.high, one.pairs)
        for pk, name in named.items()
        if (one := found.tests.get(name)) is not None
    ]
    return OverheadShape(shapes, found.k, None if found.k is None else 100 * (found.k - 1), found.refused)


def _paired(cells: dict[tuple[int, str], list[float]]) -> tuple[list[float], list[float]]:
    """Values without and with the recorder in pairs, over the columns; one that has no partner yet is left out."""
    off: list[float] = []
    on: list[float] = []
    for column in {column for column, _ in cells}:
        without, with_it = cells.get((column, "off"), []), cells.get((column, "on"), [])
        both = min(len(without), len(with_it))
        off += without[:both]
        on += with_it[:both]
    return off, on
