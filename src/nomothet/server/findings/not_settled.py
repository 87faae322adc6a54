"""What is not settled, and what would settle it (method 3)."""

from nomothet.core.notes import note
from nomothet.server.findings.finding import CellRef, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.words import say


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """One finding over all comparisons that are undecided or without noise."""
    open_ones = []
    for row in found.shown.rows:
        for column in found.others:
            cell = row.cells.get(str(column.pk))
            if cell and cell.comparison and cell.comparison.verdict in UNDECIDED:
                open_ones.append((row, column, cell.comparison))
    base = found.baseline
    if not open_ones or base is None:
        return []
    settled = sum(one.settling.startswith("settled by") for _, _, one in open_ones)
    unknown = sum(one.verdict == "noise unknown" for _, _, one in open_ones)
    shape = FindingShape(
        key=kind.key,
        kind=kind.key,
        kind_words=kind.words,
        sentence=say(note("finding_not_settled", count=len(open_ones), settled=settled, unknown=unknown)),
        sure="open",
        columns=list(dict.fromkeys([base.pk, *(column.pk for _, column, _ in open_ones)])),
        tests=list(dict.fromkeys(row.test for row, _, _ in open_ones)),
        cells=[CellRef(row.test, column.pk, row.metric) for row, column, _ in open_ones],
        caveats=[],
        left_out=[],
        section=kind.section,
        margin_pct=None,
        bands=[],
        heads=["test and metric", "configuration", "change", "what would settle it"],
        lines=[
            [
                f"{found.names[row.test]}, {row.label.split(',')[0]}",
                column.label,
                f"{one.told} ({one.interval})" if one.interval else one.told,
                one.settling or ("a second pass" if one.verdict == "noise unknown" else ""),
            ]
            for row, column, one in open_ones
        ],
    )
    return [Ranked(shape, 9)]


KIND = Kind("open", "not settled", "3", make)
