"""What findings are made from, read once for all kinds."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.differences import undeclared
from nomothet.core.notes import note
from nomothet.server.evidence.figures import Evidence, gather
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.levels import FactorShape, factors_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.short_names import short_names
from nomothet.words import say

# How sure a finding is: decided, undecided, with a warning, or that something cannot be told.
Sure = Literal["decided", "undecided", "warns", "open"]
# Verdicts that decide nothing.
UNDECIDED = ("undecided", "noise unknown")


@dataclass(frozen=True)
class Gathered:
    """A review with its matrix and the values behind it."""

    review: Review
    columns: Mapping[int, Column]
    tests: Mapping[int, Test]
    names: Mapping[int, str]
    shown: MatrixShape
    evidence: Evidence
    # What somebody lives with, and differences that nobody has declared, each with the columns that it parts.
    accepted: list[str]
    undeclared: Sequence[tuple[str, Mapping[int, object]]]
    # By column, what each aspect has.
    states: Mapping[int, Mapping[str, object]]
    factors: Sequence[FactorShape]
    # By column, its level of each factor.
    factor_levels: Mapping[int, Mapping[str, str]]

    def _parting(self, columns: Iterable[int]) -> list[str]:
        wanted = list(columns)
        return [words for words, values in self.undeclared if len({repr(values.get(one)) for one in wanted}) > 1]

    def caveats(self, columns: Iterable[int]) -> list[str]:
        """What is to be kept in mind of a comparison of some columns."""
        return [*self._parting(columns), *self.accepted]

    def sure(self, columns: Iterable[int], *, undecided: bool = False) -> Sure:
        """How sure a comparison of columns is: one with an undeclared difference between them warns."""
        return "undecided" if undecided else "warns" if self._parting(columns) else "decided"

    def levels(self) -> dict[int, float | str]:
        """The level of each column that can be built, where the review varies one factor alone; numbers where it is."""
        if len(self.review.factors) != 1:
            return {}
        (factor,) = self.review.factors
        aspects = factor["aspects"]
        found: dict[int, float | str] = {}
        for pk, column in self.columns.items():
            if column.configuration.blocked:
                continue
            if len(aspects) == 1:
                value = self.states[pk].get(aspects[0])
                number = isinstance(value, int | float) and not isinstance(value, bool)
                found[pk] = float(value) if number else column.label  # type: ignore[arg-type]
            else:
                found[pk] = column.levels.get(factor["key"], "") or column.label
        return found

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
    side_by_side = compared(review)
    parted = [
        (
            say(note("plan_undeclared", label=row.aspect.label)),
            {column.pk: value for column, value in zip(side_by_side.columns, row.values, strict=True)},
        )
        for row in undeclared(side_by_side.table)
    ]
    states = {one.pk: own for one, own in zip(side_by_side.columns, side_by_side.values, strict=True)}
    factors, by_column = factors_of(review, side_by_side)
    levels = {one.pk: own for one, own in zip(side_by_side.columns, by_column, strict=True)}
    accepted = [caveat.words for caveat in review.caveats.all()]
    return Gathered(
        review, columns, tests, names, shown, gather(review, tests.values()), accepted, parted, states, factors, levels
    )
