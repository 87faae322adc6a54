"""The matrix of a review: every test on every configuration, in all its lenses."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import msgspec

from nomothet.core.margins import margin_of
from nomothet.formats.words import LOW_DEFINITIONS
from nomothet.server.evidence.returned import ReturnShape, blocks, returned
from nomothet.server.matrix.again import AGAIN
from nomothet.server.matrix.alike import ALIKE, AlikeRow
from nomothet.server.matrix.economy import ECONOMY, EconomyRow
from nomothet.server.matrix.flags import FLAGS, FlagShape
from nomothet.server.matrix.lens import Lens, LensResults
from nomothet.server.matrix.limits import LIMITS, LimitsRow
from nomothet.server.matrix.progress import PASSES, ProgressCell, Totals, docketed, progress_cells, totals_of
from nomothet.server.matrix.results import lens_results, row_results, shared_of
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.matrix.rows import ROWS
from nomothet.server.matrix.samples import SAMPLES, Samples
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.shapes import Written
from nomothet.server.systems.prices import ConfigurationPrice, prices_of
from nomothet.server.systems.states import ConfigurationState, states


@dataclass(frozen=True)
class ProgressRow:
    test: int
    cells: dict[str, ProgressCell]
    uneven: bool


@dataclass(frozen=True)
class FlagsRow:
    """Flags of a test's cells, by column id."""

    test: int
    cells: dict[str, list[FlagShape]]


@dataclass(frozen=True)
class RecountingShape:
    """Passes of a test whose figures still follow earlier cuts, spans or target; a worker computes them anew."""

    test: int
    passes: int


@dataclass(frozen=True)
class MatrixShape:
    review: int
    baseline: int | None
    # The margin for ratios, in %.
    margin_pct: float
    low_definition: str
    low_words: str
    progress: list[ProgressRow]
    rows: list[RowShape]
    totals: Totals
    limits: list[LimitsRow]
    alike: list[AlikeRow]
    flags: list[FlagsRow]
    # The baseline measured again after others, where it was.
    returned: list[ReturnShape]
    recounting: list[RecountingShape]
    economy: list[EconomyRow]
    # What the configurations cost, by column id.
    prices: dict[str, ConfigurationPrice]


@dataclass(frozen=True)
class Seen:
    """A matrix with the values behind its cells, by test."""

    shown: MatrixShape
    _results: Sequence[LensResults]

    @cached_property
    def samples(self) -> dict[int, Samples]:
        return {one.test: one.of(SAMPLES) for one in self._results}


def matrix(review: Review, baseline: int | None = None, *, idle_off: bool = False) -> MatrixShape:
    """Everything that the lenses show.

    Parameters
    ----------
    baseline : int, optional
        Column to compare with; the review's own baseline without it.
    idle_off : bool
        Whether idle baselines are taken off where a row has one.
    """
    return seen(review, baseline, idle_off=idle_off).shown


def seen(review: Review, baseline: int | None = None, *, idle_off: bool = False) -> Seen:
    """The same with the values behind it."""
    found = _found(review, baseline, idle_off)
    return Seen(_whole(found, _Objects(found.results)), found.results)


def matrix_json(review: Review, baseline: int | None = None, *, idle_off: bool = False) -> Written:
    """The matrix as JSON; the long lists in it are put together of what lenses keep as JSON, and no object is made."""
    found = _found(review, baseline, idle_off)
    return Written(msgspec.json.encode(_whole(found, _Json(found.results))))


@dataclass(frozen=True)
class _Found:
    """What a matrix is made of."""

    review: Review
    columns: Sequence[Column]
    tests: Sequence[Test]
    baseline: int | None
    held: Mapping[int, ConfigurationState]
    results: Sequence[LensResults]


@dataclass(frozen=True)
class _Objects:
    """What lenses show of all tests, as objects."""

    results: Sequence[LensResults]

    def each(self, lens: Lens[Any]) -> Any:
        """A list with what is shown of each test."""
        return [one.of(lens) for one in self.results]

    def together(self, lens: Lens[Any]) -> Any:
        """One list of what is a list for each test."""
        return [part for one in self.results for part in one.of(lens)]


@dataclass(frozen=True)
class _Json:
    """The same as JSON."""

    results: Sequence[LensResults]

    def each(self, lens: Lens[Any]) -> Any:
        return _listed(bytes(one.json(lens)) for one in self.results)

    def together(self, lens: Lens[Any]) -> Any:
        within = (bytes(one.json(lens)).removeprefix(b"[").removesuffix(b"]") for one in self.results)
        return _listed(one for one in within if one)


def _listed(parts: Iterable[bytes]) -> msgspec.Raw:
    return msgspec.Raw(b"[" + b",".join(parts) + b"]")


def _found(review: Review, baseline: int | None, idle_off: bool) -> _Found:
    columns = list(review.columns.select_related("configuration"))
    tests = list(review.tests.select_related("workload"))
    chosen = _baseline([column.pk for column in columns], baseline, [c.pk for c in columns if c.is_baseline])
    held = states([column.configuration for column in columns])
    results = lens_results(review, tests, shared_of(review, tests, columns, chosen, held, idle_off=idle_off))
    return _Found(review, columns, tests, chosen, held, results)


def _whole(found: _Found, lists: _Objects | _Json) -> MatrixShape:
    review, columns, results, chosen = found.review, found.columns, found.results, found.baseline
    docket = docketed(review)
    shown = {one.test: progress_cells(one.test, one.of(PASSES), docket) for one in results}
    prices = prices_of(found.held)
    return MatrixShape(
        review=review.pk,
        baseline=chosen,
        margin_pct=100 * review.margin,
        low_definition=review.low_definition,
        low_words=LOW_DEFINITIONS[review.low_definition],  # type: ignore[index]
        progress=[ProgressRow(test, cells, _uneven(cells)) for test, cells in shown.items()],
        rows=lists.together(ROWS),
        totals=totals_of([cell for cells in shown.values() for cell in cells.values()]),
        limits=lists.each(LIMITS),
        alike=[alike for one in results if (alike := one.of(ALIKE)).against],
        flags=[FlagsRow(one.test, flags) for one in results if (flags := one.of(FLAGS))],
        returned=_returned(review, found.tests, columns, results, chosen) if review.returns_to_baseline else [],
        recounting=[RecountingShape(one.test, n) for one in results if (n := one.of(PASSES).recounting)],
        economy=lists.each(ECONOMY),
        prices={str(column.pk): prices[column.configuration_id] for column in columns},
    )


def rows_against(review: Review, baselines: Sequence[int]) -> dict[int, list[RowShape]]:
    """The rows of a review with their comparisons against each of several baselines."""
    if not baselines:
        return {}
    columns = list(review.columns.select_related("configuration"))
    tests = list(review.tests.select_related("workload"))
    shared = shared_of(review, tests, columns, None, states([column.configuration for column in columns]))
    found = row_results(review, tests, [replace(shared, baseline=baseline) for baseline in baselines])
    return {
        baseline: [row for one in results for row in one.of(ROWS)]
        for baseline, results in zip(baselines, found, strict=True)
    }


def _baseline(columns: list[int], asked: int | None, marked: list[int]) -> int | None:
    if asked is not None:
        if asked not in columns:
            raise unusable("The baseline asked for is not a configuration of this review.")
        return asked
    return next(iter([*marked, *columns]), None)


def _uneven(cells: dict[str, ProgressCell]) -> bool:
    kept = {len([pip for pip in cell.pips if pip.state in ("kept", "flagged")]) for cell in cells.values()}
    return len(kept - {0}) > 1


def _returned(
    review: Review,
    tests: Sequence[Test],
    columns: Sequence[Column],
    results: Sequence[LensResults],
    baseline: int | None,
) -> list[ReturnShape]:
    """Wherever the baseline was measured again after others on its system, whether it is what it was."""
    systems = {str(column.pk): column.configuration.system_id for column in columns}
    own = systems.get(str(baseline))
    others = sorted(
        at
        for one in results
        for column, times in one.of(PASSES).ran.items()
        if column != str(baseline) and systems.get(column) == own
        for at in times
    )
    found = []
    for test, one in zip(tests, results, strict=True):
        again = one.of(AGAIN)
        if again is None:
            continue
        metric = metric_of(test, test.shown[0], review.low_definition)
        margin = margin_of(metric.unit, metric.scale, review.margin, review.margins)
        stretches = blocks(again.timed, others)
        for later in stretches[1:]:
            shape = returned(test.pk, metric, stretches[0], later, again.rest, margin)
            found += [shape] if shape else []
    return found
