"""Earlier results that would fit beside the tests of a review."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from functools import reduce
from operator import or_

from django.db.models import Count, Q, QuerySet
from django.db.models.functions import Concat

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.standings.keeping import settings_tag
from nomothet.server.standings.measured_before import measured_before
from nomothet.server.standings.models import Result
from nomothet.words import say

_MOST = 20
_TIMES = 3


@dataclass(frozen=True)
class ReferenceOffer:
    """A column of another review with results of tests of this one.

    `saves` counts the passes that need not be run anew where the same configuration is planned here, `same_as` is its
    column here. `alone` says that its review compares it with nothing: it was measured for later. `other_version`
    counts tests that it has with a version of the workload that does not stand beside this review's.
    """

    column: int
    label: str
    system: str
    review: int
    question: str
    day: date
    fits: int
    of: int
    other_version: int
    alone: bool
    same_as: int | None
    saves: int
    measured_before: list[str]
    taken: bool


def offers(review: Review) -> list[ReferenceOffer]:
    """Columns of other reviews by how many tests they have, then by day; eight queries."""
    tests = {(one.workload.key, settings_tag(one.settings)): one for one in review.tests.select_related("workload")}
    if not tests:
        return []
    same = reduce(or_, (Q(key=key, settings=tag) for key, tag in tests))
    rows = Result.objects.filter(same, leads=True, n__gt=0)
    own = list(review.columns.values_list("pk", flat=True))
    counted = rows.exclude(column__in=own).values("column").annotate(of=Count(Concat("key", "settings"), distinct=True))
    best = list(counted.order_by("-of", "-column").values_list("column", flat=True)[:_MOST])
    by_column = _latest(rows.filter(column__in=best), tests)
    results = [one for held in by_column.values() for one in held]
    before = measured_before(results)
    alone = _alone({one.review_id for one in results})
    here = _Here(review, tests)
    taken = set(review.references.filter(removed_at=None).values_list("column", flat=True))
    found = []
    for column in best:
        # One whose results went away after they were counted is none any more.
        if column not in by_column:
            continue
        held = by_column[column]
        first = held[0]
        fit = [one for one in held if here.same_version(one)]
        told = {say(why) for one in held for why in before.get(one.pk, [])}
        found.append(
            ReferenceOffer(
                column=column,
                label=first.column.label,
                system=first.system.name,
                review=first.review_id,
                question=first.review.question,
                day=max(one.last_at for one in held).date(),
                fits=len(fit),
                of=len(tests),
                other_version=len(held) - len(fit),
                alone=first.review_id in alone,
                same_as=here.same_as(first.configuration_id),
                saves=here.saves(first.configuration_id, fit) if not told else 0,
                measured_before=sorted(told),
                taken=column in taken,
            )
        )
    return sorted(
        found, key=lambda one: (-one.fits, one.same_as is None, -one.saves, not one.alone, -one.day.toordinal())
    )


def _latest(rows: QuerySet[Result], tests: Mapping[tuple[str, str], Test]) -> dict[int, list[Result]]:
    """Of each column the last result of each test; of those that are not the last, the key alone is read."""
    for _ in range(_TIMES):
        latest: dict[tuple[int, int], int] = {}
        told = rows.order_by("last_at").values_list("pk", "column", "key", "settings")
        for pk, column, key, tag in told:
            latest[column, tests[key, tag].pk] = pk
        whole = Result.objects.select_related("workload", "configuration", "system", "column", "review")
        found = whole.in_bulk(list(latest.values()))
        if len(found) == len(latest):
            break
        # Some were made anew between the two questions; the new ones are asked for.
    by_column: dict[int, list[Result]] = defaultdict(list)
    for one in found.values():
        by_column[one.column_id].append(one)
    return dict(by_column)


def _alone(reviews: set[int]) -> set[int]:
    columns = Column.objects.filter(review__in=reviews).values_list("review", flat=True)
    counted = list(columns)
    return {review for review in reviews if counted.count(review) == 1}


class _Here:
    """What is planned in the review, and what has been run of it."""

    def __init__(self, review: Review, tests: dict[tuple[str, str], Test]) -> None:
        self._tests = tests
        self._per_test = review.passes_per_test
        self._columns = {one.configuration_id: one.pk for one in review.columns.all()}
        self._ran: dict[tuple[int, int], int] = defaultdict(int)
        for cell in Pass.objects.kept().filter(test__review=review).values_list("test", "column"):
            self._ran[cell] += 1

    def same_as(self, configuration: int) -> int | None:
        return self._columns.get(configuration)

    def same_version(self, one: Result) -> bool:
        """Whether its version stands beside that of the test here."""
        own = self._tests[one.key, one.settings].workload
        if own.version == one.workload.version:
            return True
        declared = {said["version"] for said in one.workload.comparable}, {said["version"] for said in own.comparable}
        return own.version in declared[0] or one.workload.version in declared[1]

    def saves(self, configuration: int, fit: list[Result]) -> int:
        """Passes that are still wanted of a configuration in tests that were measured with it already."""
        column = self._columns.get(configuration)
        if column is None:
            return 0
        tests = {self._tests[one.key, one.settings].pk for one in fit}
        return sum(max(0, self._per_test - self._ran[test, column]) for test in tests)
