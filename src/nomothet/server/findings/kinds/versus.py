"""The strongest single differences of each configuration to the baseline (method 3)."""

import math

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import band_of_cell, metric_of_row
from nomothet.server.findings.shapes import CellRef
from nomothet.server.matrix.row_shapes import ComparisonShape, RowShape
from nomothet.server.reviews.models import Column

# So many differences of a configuration are drawn; the first of them is told.
MOST = 6
_PLAIN = ("ahead", "behind", "slightly ahead", "slightly behind", "differs")


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each configuration that differs from the baseline anywhere for certain."""
    base = found.baseline
    if base is None:
        return []
    made = []
    for at, column in enumerate(found.others):
        rows = _decided(found, column)
        if rows:
            made.append(_of(kind, found, base, column, rows, at))
    return made


def _decided(found: Gathered, column: Column) -> list[tuple[RowShape, ComparisonShape]]:
    pairs = []
    for row in found.lows() if found.choice.role == "lows" else found.rows:
        cell = row.cells.get(str(column.pk))
        if row.scale == "ratio" and cell and cell.comparison and cell.comparison.verdict in _PLAIN:
            pairs.append((row, cell.comparison))
    return sorted(pairs, key=lambda pair: -_size(pair[1]))


def _size(comparison: ComparisonShape) -> float:
    return abs(math.log1p(max(comparison.better, -99.9) / 100))


def _of(
    kind: Kind,
    found: Gathered,
    base: Column,
    column: Column,
    rows: list[tuple[RowShape, ComparisonShape]],
    at: int,
) -> Ranked:
    first, strongest = rows[0]
    shown = rows[:MOST]
    bands = [band_of_cell(found.name(row), one, column.pk) for row, one in shown]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{column.pk}",
            sentence=note(
                "finding_versus",
                own=column.label,
                baseline=base.label,
                test=found.names[first.test],
                metric=metric_of_row(first),
                told=strongest.told,
                interval=strongest.interval,
                verdict=strongest.verdict,
            ),
            use=Use.SINGLE,
            columns=[base.pk, column.pk],
            about=[row for row, _ in shown],
            size=_size(strongest) / math.log1p(found.review.margin),
            order=at,
            told=strongest.told,
            verdict=strongest.verdict,
            cells=[CellRef(row.test, pk, row.metric) for row, _ in shown for pk in (base.pk, column.pk)],
            bands=bands,
            heads=["test and metric", "change", "interval", "verdict"],
            lines=[[band.label, band.told, band.interval, band.verdict] for band in bands],
        ),
    )


KIND = Kind("versus", "single differences", "3", make, ("role", "without", "baseline"))
