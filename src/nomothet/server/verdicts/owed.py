"""The passes that would settle a sentence, cell by cell."""

from collections.abc import Callable, Mapping

from nomothet.claims import Checked
from nomothet.claims.facts import Statement
from nomothet.server.findings.shapes import FindingShape, OwedCell
from nomothet.server.matrix.matrix import MatrixShape
from nomothet.server.verdicts.claim_facts import role_of

# What is taken together over all tests beside lows.

_OVER_ALL = ("average", "score", "time")


def owed_by(shown: MatrixShape, findings: Mapping[int, FindingShape]) -> Callable[[Checked], list[OwedCell]]:
    """How the passes are found that a check wants; `findings` are by their numbers in the text."""

    def owed(checked: Checked) -> list[OwedCell]:
        cells: dict[tuple[int, int], int] = {}
        for one in checked.open:
            _take(cells, _of_comparison(shown, one))
        for number in checked.open_findings:
            # What the comparison itself wants is enough where it is known.
            if not cells and number in findings:
                _take(cells, [cell for act in findings[number].acts if act.kind == "owe" for cell in act.cells])
        return [OwedCell(test, column, passes) for (test, column), passes in cells.items()]

    return owed


def _take(cells: dict[tuple[int, int], int], more: list[OwedCell]) -> None:
    for one in more:
        cells[one.test, one.column] = max(one.passes, cells.get((one.test, one.column), 0))


def _of_comparison(shown: MatrixShape, one: Statement) -> list[OwedCell]:
    """What both sides of a comparison with the baseline lack; of one over all tests, in those that are open."""
    if shown.baseline not in (one.own, one.base):
        return []
    roles = (one.role,) if one.test is not None or one.role == "low" else _OVER_ALL
    other = one.base if one.own == shown.baseline else one.own
    found = []
    for row in shown.rows:
        cell = row.cells.get(str(other))
        comparison = cell.comparison if cell else None
        if comparison is None or comparison.needed is None or role_of(row) not in roles:
            continue
        if one.test is not None and row.test != one.test:
            continue
        lacking = ((other, comparison.n), (shown.baseline, comparison.n_baseline))
        found += [
            OwedCell(row.test, column, comparison.needed - n)
            for column, n in lacking
            if column is not None and n < comparison.needed
        ]
    return found
