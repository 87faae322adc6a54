"""Rows of several tests as section 4 of the method takes them, with why one takes no part."""

from collections.abc import Mapping, Sequence

from nomothet.core.overall import TestCells
from nomothet.formats.words import OUTCOMES
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import turn_of
from nomothet.server.matrix.row_shapes import CellShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import LEFT_OUT


def cells_over_tests(found: Gathered, rows: Sequence[RowShape], compared: Sequence[Column]) -> dict[str, TestCells]:
    """The values of rows by test and configuration, both by their keys."""
    return {
        str(row.test): TestCells(
            {str(one.pk): found.numbers(row, one.pk) for one in compared},
            turn_of(row),
            left_out=why_not(found, row, compared) or None,
        )
        for row in rows
    }


def left_out_words(found: Gathered, left_out: Mapping[str, str]) -> list[str]:
    """The tests that take no part, each with why."""
    return [f"{found.names[int(test)]}: {LEFT_OUT.get(why, why)}" for test, why in left_out.items()]


def why_not(found: Gathered, row: RowShape, compared: Sequence[Column]) -> str:
    """The first reason that a test is left out for all: missing, untrusted, held rate, masked, thin tail."""
    cells: Mapping[str, CellShape] = row.cells
    if any(str(one.pk) not in cells for one in compared):
        failed = _failed(found, row.test, compared)
        return failed or "missing"
    if row.untrusted:
        return "untrusted"
    codes = {cells[str(one.pk)].why_not_code for one in compared}
    if "held_at" in codes:
        return "held rate"
    if "masked" in codes:
        return "masked"
    if any(cells[str(one.pk)].thin for one in compared):
        return "thin tail"
    return ""


def _failed(found: Gathered, test: int, compared: Sequence[Column]) -> str:
    """How a cell without figures ended, where it was tried."""
    lines = {line.test: line.cells for line in found.shown.progress}
    for column in compared:
        cell = lines.get(test, {}).get(str(column.pk))
        failed = [pip.words for pip in cell.pips if pip.state == "failed"] if cell else []
        if failed:
            known = next((words for words in OUTCOMES.values() if failed[0].startswith(words)), failed[0])
            return f"{known} on {column.label}"
    return ""
