"""What findings are made from, read once for all kinds."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from nomothet.core.differences import undeclared
from nomothet.core.expectation import Held
from nomothet.core.notes import Note, note
from nomothet.server.evidence.figures import Cell, Evidence, LookedAt
from nomothet.server.evidence.values import AllValues, Values
from nomothet.server.findings.choice import PROPOSED, Choice
from nomothet.server.matrix.economy import EconomyRow
from nomothet.server.matrix.limits import LimitsCell
from nomothet.server.matrix.matrix import MatrixShape, seen
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.matrix.samples import Sample, Samples
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.expectations import Expectation, expectations_of
from nomothet.server.reviews.levels import FactorShape, factors_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.short_names import short_names
from nomothet.server.reviews.shown import metric_of
from nomothet.server.systems.prices import ConfigurationPrice, prices_of
from nomothet.server.systems.states import ConfigurationState, states
from nomothet.server.workloads.names import edition_names
from nomothet.words import say

# How sure a finding is: decided, undecided, with a warning, or that something cannot be told.
Sure = Literal["decided", "undecided", "warns", "open"]
# Verdicts that decide nothing.
UNDECIDED = ("undecided", "noise unknown")


@dataclass(frozen=True)
class Gathered:
    """A review with its matrix and the values behind it."""

    review: Review
    choice: Choice
    columns: Mapping[int, Column]
    tests: Mapping[int, Test]
    names: Mapping[int, str]
    shown: MatrixShape
    samples: Mapping[int, Samples]
    # What somebody lives with, and differences that nobody has declared, each with the columns that it parts.
    accepted: list[str]
    undeclared: Sequence[tuple[str, Mapping[int, object]]]
    # By column, what each aspect has.
    aspects: Mapping[int, Mapping[str, object]]
    held: Mapping[int, ConfigurationState]
    factors: Sequence[FactorShape]
    # By column, its level of each factor.
    factor_levels: Mapping[int, Mapping[str, str]]
    expectations: Sequence[Expectation]
    # What came of the expectations, filled by the kind that judges them.
    judged: list[tuple[Expectation, Held, str]] = field(default_factory=list)

    @cached_property
    def evidence(self) -> Evidence:
        """The values behind the matrix as those take them who read them off the passes elsewhere."""
        values: AllValues = {}
        looked_at: dict[Cell, list[LookedAt]] = {}
        for pk, samples in self.samples.items():
            for shown, cells in samples.metrics.items():
                key = metric_of(self.tests[pk], shown, self.review.low_definition).key
                values[pk, key] = {int(column): Values(one.passes, one.numbers) for column, one in cells.items()}
            for column, used in samples.uses.items():
                looked_at[pk, int(column)] = [LookedAt(number, {"uses": uses}, {}, "") for number, uses in used]
        return Evidence([], values, {}, looked_at, {}, Counter(), set())

    def _parting(self, columns: Iterable[int]) -> list[str]:
        wanted = list(columns)
        return [words for words, values in self.undeclared if len({repr(values.get(one)) for one in wanted}) > 1]

    def caveats(self, columns: Iterable[int], rows: Iterable[RowShape] = ()) -> list[str]:
        """What is to be kept in mind of a comparison of some columns in some rows."""
        wanted = list(columns)
        return [*self._parting(wanted), *self.accepted, *map(say, self._of_rows(wanted, list(rows)))]

    def _of_rows(self, columns: Sequence[int], rows: Sequence[RowShape]) -> list[Note]:
        """Conditions of the rows' own comparisons: how the noise is known, and how the passes were taken."""
        cells = [(row, cell) for row in rows for column in columns if (cell := row.cells.get(str(column)))]
        compared = [(row, cell.comparison) for row, cell in cells if cell.comparison]
        alike = {one.test: one.against for one in self.shown.alike}
        found = []
        if any(one.one_session for _, one in compared):
            found.append(note("caveat_one_session"))
        uneven = [self.names[row.test] for row, one in compared if one.noise == "own"]
        if uneven:
            found.append(note("caveat_own_noise", tests=list(dict.fromkeys(uneven))))
        borrowed = [self.names[row.test] for row, one in compared if one.noise == "borrowed"]
        if borrowed:
            found.append(note("caveat_borrowed_noise", tests=list(dict.fromkeys(borrowed))))
        recorded = [self.names[row.test] for row, cell in cells if cell.corrected is not None]
        if recorded:
            found.append(note("caveat_recorder", tests=list(dict.fromkeys(recorded))))
        mixed = [
            self.names[row.test]
            for row in rows
            for column in columns
            if any(one.key == "capture" for one in alike.get(row.test, {}).get(str(column), []))
        ]
        if mixed:
            found.append(note("caveat_capture", tests=list(dict.fromkeys(mixed))))
        return found

    def sure(self, columns: Iterable[int], *, undecided: bool = False) -> Sure:
        """How sure a comparison of columns is: one with an undeclared difference between them warns."""
        return "undecided" if undecided else "warns" if self._parting(columns) else "decided"

    def levels(self) -> dict[int, float | str]:
        """The level of each column that can be built, where the review varies one factor alone; numbers where it is."""
        return self.levels_of(self.review.factors[0]["key"]) if len(self.review.factors) == 1 else {}

    def levels_of(self, key: str) -> dict[int, float | str]:
        """The level of a factor of each column that can be built; numbers where it is."""
        factor = next(one for one in self.review.factors if one["key"] == key)
        aspects = factor["aspects"]
        found: dict[int, float | str] = {}
        for pk, column in self.columns.items():
            if column.configuration.blocked:
                continue
            if len(aspects) == 1:
                value = self.aspects[pk].get(aspects[0])
                number = isinstance(value, int | float) and not isinstance(value, bool)
                found[pk] = float(value) if number else column.label  # type: ignore[arg-type]
            else:
                found[pk] = column.levels.get(key, "") or column.label
        return found

    @property
    def baseline(self) -> Column | None:
        return self.columns.get(self.shown.baseline) if self.shown.baseline is not None else None

    @property
    def others(self) -> list[Column]:
        """The configurations other than the baseline, but for those that cannot be built."""
        base = self.baseline
        return [one for one in self.buildable if base is not None and one.pk != base.pk]

    @property
    def buildable(self) -> list[Column]:
        """The configurations that can be built."""
        return [one for one in self.columns.values() if not one.configuration.blocked]

    @cached_property
    def rows(self) -> list[RowShape]:
        """The rows of the tests that are in."""
        return [row for row in self.shown.rows if row.test not in self.choice.without]

    def leading(self) -> list[RowShape]:
        """The first row of each test, where it is measured; the lows where these were chosen."""
        if self.choice.role == "lows":
            return self.lows()
        first: dict[int, RowShape] = {}
        for row in self.rows:
            if not row.kind:
                first.setdefault(row.test, row)
        return list(first.values())

    def lows(self) -> list[RowShape]:
        """The 1 % lows of the tests that show them."""
        return [row for row in self.rows if row.metric == "low_1pct" and not row.kind]

    def sample(self, row: RowShape, column: int) -> Sample | None:
        """The kept values of a row in a column."""
        return self.samples[row.test].metrics.get(row.metric, {}).get(str(column))

    def numbers(self, row: RowShape, column: int) -> list[float]:
        """The same as plain numbers; none where there is no pass."""
        sample = self.sample(row, column)
        return sample.numbers if sample else []

    def limits(self, test: int) -> Mapping[int, LimitsCell]:
        """What the passes of a test's cells were held back by."""
        row = next((one for one in self.shown.limits if one.test == test), None)
        return {int(column): cell for column, cell in row.cells.items()} if row else {}

    def economy(self, test: int) -> EconomyRow | None:
        return next((one for one in self.shown.economy if one.test == test), None)

    @cached_property
    def prices(self) -> Mapping[int, ConfigurationPrice]:
        """What each column costs, by the basis that was chosen or that most have."""
        found = prices_of(self.held, self.choice.basis, differing=self.choice.differing)
        return {pk: found[column.configuration_id] for pk, column in self.columns.items()}

    def name(self, row: RowShape) -> str:
        """A row as it is called in tables."""
        return f"{self.names[row.test]}, {row.label.split(',')[0]}"


def gathered(review: Review, choice: Choice = PROPOSED) -> Gathered:
    """Everything that the kinds need."""
    columns = {one.pk: one for one in review.columns.select_related("configuration")}
    tests = {one.pk: one for one in review.tests.select_related("workload")}
    short = short_names(tests.values())
    editions = edition_names(test.workload for test in tests.values())
    names = {pk: ", ".join(filter(None, (editions[test.workload_id], short[pk]))) for pk, test in tests.items()}
    found = seen(review, choice.baseline, idle_off=choice.idle_off)
    side_by_side = compared(review)
    parted = [
        (
            say(note("plan_undeclared", label=row.aspect.label)),
            {column.pk: value for column, value in zip(side_by_side.columns, row.values, strict=True)},
        )
        for row in undeclared(side_by_side.table)
    ]
    aspects = {one.pk: own for one, own in zip(side_by_side.columns, side_by_side.values, strict=True)}
    factors, by_column = factors_of(review, side_by_side)
    levels = {one.pk: own for one, own in zip(side_by_side.columns, by_column, strict=True)}
    return Gathered(
        review=review,
        choice=choice,
        columns=columns,
        tests=tests,
        names=names,
        shown=found.shown,
        samples=found.samples,
        accepted=[caveat.words for caveat in review.caveats.all()],
        undeclared=parted,
        aspects=aspects,
        held=states([one.configuration for one in columns.values()]),
        factors=factors,
        factor_levels=levels,
        expectations=expectations_of(review),
    )
