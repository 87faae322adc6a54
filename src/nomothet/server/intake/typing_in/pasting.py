"""A pasted table over the matrix: what each of its rows and columns is of, and where each value would land."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from nomothet.formats.errors import FormatError
from nomothet.formats.pasted import Block, Correction, Labels, Name, Says, numbered, read_blocks, with_unit
from nomothet.server.intake.typing_in.cells import Looked, Typed
from nomothet.server.intake.typing_in.looking import look
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.short_names import short_names
from nomothet.server.reviews.shown import FIRST, metric_of, row_keys, typable
from nomothet.server.workloads.names import edition_names

_T = TypeVar("_T")


@dataclass(frozen=True)
class Anchor:
    """The cell on which a table was pasted: what rows and columns do not tell begins there."""

    test: int
    metric: str
    column: int


@dataclass(frozen=True)
class Way:
    """How the values of a metric are read, for rows that do not say yet."""

    method: str
    half_width: float | None


@dataclass(frozen=True)
class Placed:
    """A value of a pasted table with its place there; `problem` says why it has no place in the matrix."""

    block: int
    row: int
    column: int
    text: str
    typed: Typed | None
    looked: Looked | None
    problem: str


@dataclass(frozen=True)
class Pasted:
    blocks: list[Block]
    values: list[Placed]


def read_pasted(
    review: Review,
    text: str,
    anchor: Anchor | None,
    corrections: Sequence[Correction],
    ways: Mapping[str, Way],
) -> Pasted:
    """Understand a pasted table; stores nothing.

    Parameters
    ----------
    ways : mapping
        How a metric is read, by its key; "" for every other one. Rows that say so themselves go before.
    """
    tests = list(review.tests.select_related("workload", "review"))
    columns = list(review.columns.select_related("configuration__system"))
    try:
        blocks = read_blocks(text, Labels(_names(review, tests, columns)), corrections)
    except FormatError as error:
        raise unusable(str(error), field="text") from None
    places = _Places(tests, columns, anchor)
    found = [one for at, block in enumerate(blocks) for one in _values(at, block, places)]
    return Pasted(blocks, _looked(review, tests, _with_runs(found), ways))


def _names(review: Review, tests: Sequence[Test], columns: Sequence[Column]) -> Iterator[Name]:
    names, short = edition_names(test.workload for test in tests), short_names(tests)
    for test in tests:
        own = names[test.workload_id]
        told = (own, test.workload.name, f"{own} {test.detail}", f"{own} {short[test.pk]}", short[test.pk], test.detail)
        yield Name("test", test.pk, tuple(dict.fromkeys(filter(None, told))))
    for column in columns:
        configuration = column.configuration
        known = (column.label, configuration.title, f"{configuration.system.name} {column.label}")
        # The name of the machine is enough where it stands in one column only.
        alone = sum(other.configuration.system_id == configuration.system_id for other in columns) == 1
        yield Name("configuration", column.pk, (*known, configuration.system.name) if alone else known)
    metrics = {key: metric_of(test, key, review.low_definition) for test in tests for key in typable(test)}
    for key, metric in metrics.items():
        first = key.startswith(FIRST)
        told_as = (metric.label, key) if first else (metric.label, metric.label.split(",")[0], key)
        yield Name("metric", key, told_as, loose=not first)


@dataclass(frozen=True)
class _Found:
    """A value on its way to its place."""

    block: int
    row: int
    column: int
    text: str
    place: tuple[int, int, str] | None
    run: int | None
    problem: str


class _Places:
    """Where what a table does not tell begins: at the anchor, and on from there."""

    def __init__(self, tests: Sequence[Test], columns: Sequence[Column], anchor: Anchor | None) -> None:
        self.tests = {test.pk: test for test in tests}
        self._order = [test.pk for test in tests]
        self._rows = [(test.pk, key) for test in tests for key in row_keys(test)]
        self._columns = [column.pk for column in columns]
        self._anchor = anchor

    def row(self, down: int) -> tuple[int, str] | None:
        """The matrix row so many rows under the anchor."""
        at = self._index(self._rows, (self._anchor.test, self._anchor.metric) if self._anchor else None)
        return _nth(self._rows, at + down) if at is not None else None

    def test(self, down: int) -> int | None:
        at = self._index(self._order, self._anchor.test if self._anchor else None)
        return _nth(self._order, at + down) if at is not None else None

    def configuration(self, right: int) -> int | None:
        at = self._index(self._columns, self._anchor.column if self._anchor else None)
        return _nth(self._columns, at + right) if at is not None else None

    def metric(self, test: int) -> str | None:
        """That of the anchor where the test shows it, else its leading one."""
        shown = row_keys(self.tests[test])
        if self._anchor and self._anchor.metric in shown:
            return self._anchor.metric
        return next(iter(shown), None)

    @staticmethod
    def _index(order: Sequence[object], wanted: object) -> int | None:
        return order.index(wanted) if wanted in order else None


def _nth(order: Sequence[_T], at: int) -> _T | None:
    return order[at] if at < len(order) else None


@dataclass(frozen=True)
class _Told:
    """What the labels of a block tell of at all; the rest goes on from the anchor."""

    tests: bool
    metrics: bool
    configurations: bool
    # Whether its columns are of one configuration: metrics, runs or tests stand side by side.
    across: bool
    # Whether its rows are the runs of one test.
    runs_down: bool


def _told_by(block: Block) -> _Told:
    said = [block.of_all, *(line.says for line in [*block.rows, *block.columns])]
    beside = [one.says for one in block.columns]
    return _Told(
        tests=any(one.test is not None for one in said),
        metrics=any(one.metric is not None for one in said),
        configurations=any(one.configuration is not None for one in said),
        across=any(one.metric is not None or one.run is not None or one.test is not None for one in beside),
        runs_down=any(one.says.run is not None for one in block.rows),
    )


def _values(at: int, block: Block, places: _Places) -> Iterator[_Found]:
    told = _told_by(block)
    for row, line in enumerate(block.values):
        for column, text in enumerate(line):
            says = block.says(row, column)
            if not text or says.skip:
                continue
            unknown = block.rows[row].unknown or block.columns[column].unknown
            place, problem = None, "its row or column is not known yet" if unknown else ""
            if not problem:
                where = _where(says, places, row, column, told)
                place, problem = (where, "") if isinstance(where, tuple) else (None, where)
            yield _Found(at, row, column, with_unit(text, says.unit), place, says.run, problem)


def _where(says: Says, places: _Places, row: int, column: int, told: _Told) -> tuple[int, int, str] | str:
    test, metric = says.test, says.metric
    down = 0 if told.runs_down else row
    if test is None and not told.tests:
        if told.metrics:
            test = places.test(down if told.across else 0)
        else:
            test, metric = places.row(down) or (None, None)
    if test is None:
        return "it is outside the matrix, or its test is not told"
    configuration = says.configuration
    if configuration is None and not told.configurations:
        configuration = places.configuration(0 if told.across else column)
    if configuration is None:
        return "it is outside the matrix, or its configuration is not told"
    metric = metric or places.metric(test)
    if metric is None or metric not in typable(places.tests[test]):
        return f"this test does not show {metric}" if metric else "this test shows no metric"
    return test, configuration, metric


def _with_runs(found: Sequence[_Found]) -> list[_Found]:
    """Values of one place that come one after the other are its runs, so that the figures of one run stay together."""
    placed = [one for one in found if one.place is not None]
    counted = dict(zip(map(id, placed), numbered([(one.place,) for one in placed]), strict=True))
    return [replace(one, run=counted[id(one)]) if one.run is None and one.place else one for one in found]


def _looked(review: Review, tests: Sequence[Test], found: Sequence[_Found], ways: Mapping[str, Way]) -> list[Placed]:
    by_test = {test.pk: test for test in tests}
    typed = [_typed(one, by_test, ways) for one in found]
    looked = iter(look(review, [one for one in typed if one is not None]))
    return [
        Placed(one.block, one.row, one.column, one.text, to, next(looked) if to else None, one.problem)
        for one, to in zip(found, typed, strict=True)
    ]


def _typed(one: _Found, tests: Mapping[int, Test], ways: Mapping[str, Way]) -> Typed | None:
    if one.place is None:
        return None
    test, column, metric = one.place
    way = None if metric in tests[test].readings else ways.get(metric) or ways.get("")
    method, half_width = (way.method, way.half_width) if way else ("", None)
    return Typed(test, column, metric, one.text, method, half_width, run=one.run)
