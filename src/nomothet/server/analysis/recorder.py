"""What recording costs: pairs of passes without and with the recorder, and the correction they give (section 13)."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.compare import Direction
from nomothet.core.overhead import Overhead, recorder_overhead
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.people.models import User
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.words import say

MOST_PAIRS = 10


@dataclass(frozen=True)
class RecorderFactorShape:
    """`k = y_on / y_off` of one metric of a test."""

    test: int
    name: str
    k: float
    change_pct: float
    low: float | None
    high: float | None
    pairs: int


@dataclass(frozen=True)
class OverheadShape:
    """The factors of one metric over the tests of a workload, and the correction over all of them.

    `refused` says why there is none; then each test has its own only.
    """

    workload: str
    metric: str
    label: str
    direction: str
    tests: list[RecorderFactorShape]
    k: float | None
    change_pct: float | None
    refused: str


@dataclass(frozen=True)
class _Group:
    """The pairs of one metric over the tests of a workload, by test."""

    workload: str
    metric: str
    label: str
    direction: Direction
    pairs: dict[int, tuple[list[float], list[float]]]

    def overhead(self, names: Mapping[int, str]) -> Overhead:
        """The factors by the names of the tests."""
        ways = {names[test]: self.direction for test in self.pairs}
        return recorder_overhead({names[test]: both for test, both in self.pairs.items()}, ways)


def ask_for_pairs(user: User, review: Review, test: int, column: int, pairs: int) -> int:
    """Put pairs of passes on the docket, without and with the recorder in turns; returns how many passes."""
    if not 1 <= pairs <= MOST_PAIRS:
        raise unusable(f"Ask for 1 to {MOST_PAIRS} pairs.", field="pairs")
    # Turning the order round in every second pair keeps a drift out of the factor.
    turns = [word for at in range(pairs) for word in (("off", "on") if at % 2 == 0 else ("on", "off"))]
    return len(ask_for_passes(user, review, [test], [column], 2 * pairs, recorder=turns))


def overheads_of(review: Review) -> list[OverheadShape]:
    """What the pairs of a review show; two queries."""
    tests = list(review.tests.select_related("workload"))
    names = _names(tests)
    shapes = []
    for group in _groups(review, tests):
        found = group.overhead(names)
        factors = [
            RecorderFactorShape(pk, names[pk], one.k, one.change_pct, one.low, one.high, one.pairs)
            for pk in group.pairs
            if (one := found.tests[names[pk]])
        ]
        change = None if found.k is None else 100 * (found.k - 1)
        refused = say(found.refused) if found.refused else ""
        shapes.append(
            OverheadShape(group.workload, group.metric, group.label, group.direction, factors, found.k, change, refused)
        )
    return shapes


def recorder_factors(review: Review, tests: Sequence[Test]) -> Mapping[tuple[int, str], float]:
    """The correction of each shown metric, by test and metric as shown: of its own pairs, else of its workload's.

    Two queries; none but the first where no pair was run.
    """
    found: dict[tuple[int, str], float] = {}
    names = _names(tests)
    for group in _groups(review, tests):
        overhead = group.overhead(names)
        for test in tests:
            if test.workload.name != group.workload or group.metric not in test.shown:
                continue
            own = overhead.tests.get(names[test.pk])
            k = own.k if own else overhead.k
            if k is not None:
                found[test.pk, group.metric] = k
    return found


def _groups(review: Review, tests: Sequence[Test]) -> list[_Group]:
    """Pairs by workload and metric; what a cap held hides what recording costs, and is left out."""
    by_pk = {test.pk: test for test in tests}
    figures = Figure.objects.filter(owner__in=Pass.objects.paired().filter(test__in=by_pk)).order_by("owner__number")
    rows = list(
        figures.values_list("owner", "owner__test_id", "owner__column_id", "owner__recorder", "metric", "value")
    )
    held = {owner for owner, *_, metric, _ in rows if metric == "held_fps"}
    values: dict[tuple[int, str], dict[tuple[int, str], list[float]]] = defaultdict(lambda: defaultdict(list))
    for owner, test, column, recorder, metric, value in rows:
        if owner not in held and value > 0:
            values[test, metric][column, recorder].append(value)
    groups: dict[tuple[str, str], _Group] = {}
    for pk, test in by_pk.items():
        for shown in test.shown:
            metric = metric_of(test, shown, review.low_definition)
            both = _paired(values.get((pk, metric.key), {}))
            if metric.scale != "ratio" or not both[0]:
                continue
            key = (test.workload.name, shown)
            group = groups.setdefault(
                key, _Group(test.workload.name, shown, metric.label.split(",")[0], metric.direction, {})
            )
            group.pairs[pk] = both
    return list(groups.values())


def _names(tests: Sequence[Test]) -> dict[int, str]:
    """What tests are called, each by a name of its own."""
    said = {test.pk: f"{test.workload.name}, {test.detail}" if test.detail else test.workload.name for test in tests}
    often = Counter(said.values())
    return {
        test.pk: said[test.pk] if often[said[test.pk]] == 1 else f"{said[test.pk]} ({test.position + 1})"
        for test in tests
    }


def _paired(cells: Mapping[tuple[int, str], list[float]]) -> tuple[list[float], list[float]]:
    """Values without and with the recorder in pairs, over the columns; one that has no partner yet is left out."""
    off: list[float] = []
    on: list[float] = []
    for column in dict.fromkeys(column for column, _ in cells):
        without, with_it = cells.get((column, "off"), []), cells.get((column, "on"), [])
        both = min(len(without), len(with_it))
        off += without[:both]
        on += with_it[:both]
    return off, on
