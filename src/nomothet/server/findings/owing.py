"""Passes that would mend something, as an act that puts them on the docket."""

from collections.abc import Mapping
from statistics import fmean

from nomothet.core.docket_order import BETWEEN_PASSES_S
from nomothet.core.notes import note
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.shapes import ActShape, OwedCell
from nomothet.words import say

# Taken for a pass whose length nothing on record tells.
_UNKNOWN_S = 120.0
# The docket takes so many at a time for a cell.
MOST_OF_A_CELL = 50


def owing(found: Gathered, lacking: Mapping[tuple[int, int], int]) -> list[ActShape]:
    """Put passes on the docket: so many for each cell, by test and column; what is owed already is not asked twice.

    Returns nothing where no pass is lacking.
    """
    owed = {
        (line.test, int(column)): cell.owed + len(cell.running)
        for line in found.shown.progress
        for column, cell in line.cells.items()
    }
    wanted = {
        cell: min(MOST_OF_A_CELL, count - owed.get(cell, 0))
        for cell, count in lacking.items()
        if count - owed.get(cell, 0) > 0 and not found.columns[cell[1]].configuration.blocked
    }
    waiting = sum(min(count, owed.get(cell, 0)) for cell, count in lacking.items())
    if not wanted:
        if not waiting:
            return []
        return [ActShape("advice", say(note("act_waiting", passes=waiting)), waiting, 0.0, [])]
    lengths = _lengths(found)
    seconds = sum(count * (lengths.get(test, _UNKNOWN_S) + BETWEEN_PASSES_S) for (test, _), count in wanted.items())
    passes = sum(wanted.values())
    words = say(note("act_owe", passes=passes, hours=seconds / 3600))
    cells = [OwedCell(test, column, count) for (test, column), count in wanted.items()]
    return [ActShape("owe", words, passes, seconds / 3600, cells)]


def advice(words: str) -> ActShape:
    """Something that people have to do."""
    return ActShape("advice", words, 0, 0.0, [])


def _lengths(found: Gathered) -> dict[int, float]:
    """The length of a pass of each test, in s: what its workload says, else what the times of its cells come to."""
    lengths = {pk: test.workload.duration_s for pk, test in found.tests.items() if test.workload.duration_s}
    for row in found.leading():
        if row.unit == "s" and row.cells:
            lengths.setdefault(row.test, fmean(cell.centre for cell in row.cells.values()))
    return lengths
