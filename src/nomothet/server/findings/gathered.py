"""What findings are made from, read once for all kinds."""

from collections.abc import Mapping
from dataclasses import dataclass

from nomothet.server.evidence.figures import Evidence, gather
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.short_names import short_names


@dataclass(frozen=True)
class Gathered:
    """A review with its matrix and the values behind it."""

    review: Review
    columns: Mapping[int, Column]
    tests: Mapping[int, Test]
    names: Mapping[int, str]
    shown: MatrixShape
    evidence: Evidence
    caveats: list[str]

    @property
    def baseline(self) -> Column | None:
        return self.columns.get(self.shown.baseline) if self.shown.baseline is not None else None

    @property
    def others(self) -> list[Column]:
        """The configurations other than the baseline, but for those that cannot be built."""
        base = self.baseline
        return [
            one
            for one in self.columns.values()
            if base is not None and one.pk != base.pk and not one.configuration.blocked
        ]

    def leading(self) -> list[RowShape]:
        """The first row of each test, where it is measured."""
        first: dict[int, RowShape] = {}
        for row in self.shown.rows:
            if not row.kind:
                first.setdefault(row.test, row)
        return list(first.values())


def gathered(review: Review) -> Gathered:
    """Everything that the kinds need."""
    columns = {one.pk: one for one in review.columns.select_related("configuration")}
    tests = {one.pk: one for one in review.tests.select_related("workload")}
    short = short_names(tests.values())
    names = {
        pk: f"{test.workload.name}, {short[pk]}" if short[pk] else test.workload.name for pk, test in tests.items()
    }
    shown = matrix(review)
    caveats = [caveat.words for caveat in review.caveats.all()]
    return Gathered(review, columns, tests, names, shown, gather(review, tests.values()), caveats)
