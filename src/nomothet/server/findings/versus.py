"""The strongest single differences of each configuration to the baseline (method 3)."""

import math

from nomothet.core.notes import note
from nomothet.server.findings.finding import CellRef, FindingBand, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import Gathered
from nomothet.server.matrix.row_shapes import ComparisonShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.words import say

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
    for row in found.shown.rows:
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
    sentence = say(
        note(
            "finding_versus",
            own=column.label,
            baseline=base.label,
            test=found.names[first.test],
            metric=first.label.split(",")[0],
            told=strongest.told,
            interval=strongest.interval,
            verdict=strongest.verdict,
        )
    )
    shown = rows[:MOST]
    bands = [
        FindingBand(
            column=column.pk,
            label=f"{found.names[row.test]}, {row.label.split(',')[0]}",
            better=one.better,
            low=one.better_low,
            high=one.better_high,
            told=one.told,
            interval=one.interval,
            verdict=one.verdict,
            dots=[],
        )
        for row, one in shown
    ]
    shape = FindingShape(
        key=f"{kind.key}-{column.pk}",
        kind=kind.key,
        kind_words=kind.words,
        sentence=sentence,
        sure=found.sure((base.pk, column.pk)),
        columns=[base.pk, column.pk],
        tests=list(dict.fromkeys(row.test for row, _ in shown)),
        cells=[CellRef(row.test, pk, row.metric) for row, _ in shown for pk in (base.pk, column.pk)],
        caveats=found.caveats((base.pk, column.pk)),
        left_out=[],
        section=kind.section,
        margin_pct=100 * found.review.margin,
        bands=bands,
        heads=["test and metric", "change", "interval", "verdict"],
        lines=[[band.label, band.told, band.interval, band.verdict] for band in bands],
    )
    return Ranked(shape, 2, _size(strongest) / math.log1p(found.review.margin), (at,))


KIND = Kind("versus", "single differences", "3", make)
