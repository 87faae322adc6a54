"""Targets: which configurations meet all of them, and what the others miss (method 19)."""

from nomothet.core.notes import note
from nomothet.server.findings.finding import CellRef, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import Gathered, Sure
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.words import say


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """One finding over all targets of the review."""
    rows = [row for row in found.shown.rows if any(row.targets.values())]
    columns = [one for one in found.columns.values() if not one.configuration.blocked]
    if not rows or not columns:
        return []
    codes = {one.pk: [told.code for row in rows for told in row.targets.get(str(one.pk), [])] for one in columns}
    meets = [one.label for one in columns if codes[one.pk] and set(codes[one.pk]) == {"met"}]
    misses = [
        (one.label, sum(code in ("missed", "average only") for code in codes[one.pk]), len(codes[one.pk]))
        for one in columns
        if {"missed", "average only"} & set(codes[one.pk])
    ]
    untold = [
        one.label for one in columns if one.label not in meets and not any(label == one.label for label, *_ in misses)
    ]
    sure: Sure = "open" if len(untold) == len(columns) else "undecided" if untold else "decided"
    shape = FindingShape(
        key=kind.key,
        kind=kind.key,
        kind_words=kind.words,
        sentence=say(note("finding_targets", meets=meets, misses=misses, untold=untold)),
        sure=sure,
        columns=[one.pk for one in columns],
        tests=list(dict.fromkeys(row.test for row in rows)),
        cells=[CellRef(row.test, one.pk, row.metric) for row in rows for one in columns if str(one.pk) in row.cells],
        caveats=[],
        left_out=[],
        section=kind.section,
        margin_pct=None,
        bands=[],
        heads=["test and metric", *(one.label for one in columns)],
        lines=[
            [
                _name(found, row),
                *("; ".join(told.words for told in row.targets.get(str(one.pk), [])) for one in columns),
            ]
            for row in rows
        ],
    )
    return [Ranked(shape, 3)]


def _name(found: Gathered, row: RowShape) -> str:
    return f"{found.names[row.test]}, {row.label.split(',')[0]}"


KIND = Kind("targets", "targets", "19", make)
