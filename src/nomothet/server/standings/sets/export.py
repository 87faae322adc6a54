"""A set's standing as comma-separated values: a line for every configuration and test, and what it lacks."""

from collections.abc import Iterator

from nomothet.server.csv_lines import csv_lines
from nomothet.server.standings.sets.standing import SetCell, SetItemShape, SetRow, SetStanding

_HEAD = (
    "set", "edition", "place", "system", "configuration", "revision", "over all tests", "over all low",
    "over all high", "verdict over all", "number of the test", "test", "version", "metric", "unit", "weight",
    "figure", "passes", "last pass", "better", "verdict", "why", "measured before",
)  # fmt: skip


def set_lines(found: SetStanding) -> Iterator[str]:
    """Every test of every configuration; a test without a result says "no result". `better` and what is over all
    tests are in percent against the reference, more being better."""
    yield from csv_lines([list(_HEAD)])
    for row in found.rows:
        cells = {cell.item: cell for cell in row.cells}
        yield from csv_lines(
            [found.name, found.edition, *_row(row), at + 1, *_test(item), *_cell(cells.get(at))]
            for at, item in enumerate(found.items)
        )


def _row(row: SetRow) -> list[object]:
    whole = [row.better, row.better_low, row.better_high, row.verdict]
    return [row.place, row.system, row.label, row.revision, *whole]


def _test(item: SetItemShape) -> list[object]:
    return [item.words, item.version, item.metric, item.unit, item.weight]


def _cell(cell: SetCell | None) -> list[object]:
    if cell is None:
        return [*[""] * 5, "no result", ""]
    why = "; ".join(one.words for one in cell.reasons)
    passed = [cell.centre, cell.n, cell.last_at.isoformat(), cell.better, cell.verdict]
    return [*passed, why, "; ".join(cell.measured_before)]
