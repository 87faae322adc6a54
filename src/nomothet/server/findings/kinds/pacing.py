"""Lows and pacing: where average and low disagree, hitches and evenness (methods 1 and 19)."""

from collections.abc import Sequence

from nomothet.core.notes import note
from nomothet.core.passes import summary
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import band_of_cell
from nomothet.server.findings.shapes import CellRef, FindingBand
from nomothet.server.matrix.row_shapes import ComparisonShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.numbers import figure

_AHEAD = ("ahead", "slightly ahead")
_BEHIND = ("behind", "slightly behind")


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test with frames, lows and two configurations."""
    lows = {row.test: row for row in found.lows()}
    base = found.baseline
    made = []
    for at, row in enumerate(one for one in found.rows if one.metric == "average_fps" and not one.kind):
        low = lows.get(row.test)
        columns = [one for one in found.others if low is not None and _both(row, low, one)]
        if low is None or base is None or not columns:
            continue
        made.append(_of(kind, found, row, low, base, columns, at))
    return made


def _both(row: RowShape, low: RowShape, column: Column) -> bool:
    cells = [one.cells.get(str(column.pk)) for one in (row, low)]
    return all(cell is not None and cell.comparison is not None for cell in cells)


def _pair(row: RowShape, low: RowShape, column: Column) -> tuple[ComparisonShape, ComparisonShape]:
    average, slowest = (one.cells[str(column.pk)].comparison for one in (row, low))
    assert average is not None
    assert slowest is not None
    return average, slowest


def disagree(average: str, low: str) -> bool:
    """Whether an average and a low say different things for certain.

    >>> disagree("level", "behind"), disagree("behind", "ahead"), disagree("ahead", "ahead"), disagree("level", "level")
    (True, True, False, False)
    """
    sides = [_AHEAD, _BEHIND, ("level",)]
    of = [next((at for at, words in enumerate(sides) if word in words), None) for word in (average, low)]
    return None not in of and of[0] != of[1]


def _of(
    kind: Kind, found: Gathered, row: RowShape, low: RowShape, base: Column, columns: Sequence[Column], at: int
) -> Ranked:
    pairs = {column.pk: _pair(row, low, column) for column in columns}
    apart = [column for column in columns if disagree(*(one.verdict for one in pairs[column.pk]))]
    told = max(apart or columns, key=lambda column: abs(pairs[column.pk][0].better - pairs[column.pk][1].better))
    average, slowest = pairs[told.pk]
    bands: list[FindingBand] = []
    for column in columns:
        for name, one in zip(("average", "1 % low"), pairs[column.pk], strict=True):
            bands.append(band_of_cell(f"{column.label}, {name}", one, column.pk))
    decided = [one for pair in pairs.values() for one in pair if one.verdict not in ("undecided", "noise unknown")]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{row.test}",
            sentence=note(
                "finding_lows",
                test=found.names[row.test],
                own=told.label,
                baseline=base.label,
                average=average.verdict,
                average_told=average.told,
                low=slowest.verdict,
                low_told=slowest.told,
                apart=len(apart),
                hitches=_hitches(found, row, [base, *columns]),
            ),
            use=Use.CONDITION,
            columns=[base.pk, *(column.pk for column in columns)],
            about=[row, low],
            size=abs(average.better - slowest.better) / (100 * found.review.margin) if apart else 0.0,
            order=at,
            undecided=not decided,
            told=slowest.told,
            verdict=slowest.verdict,
            cells=[CellRef(one.test, column.pk, one.metric) for column in [base, *columns] for one in (row, low)],
            bands=bands,
            heads=["configuration", "average", "1 % low", "evenness", "hitches per minute", "pacing unevenness"],
            lines=[_line(found, row, low, column) for column in [base, *columns]],
        ),
    )


def _hitches(found: Gathered, row: RowShape, columns: Sequence[Column]) -> list[float]:
    """Hitches per minute, the mean of each configuration."""
    samples = found.samples[row.test].metrics.get("hitch_rate_per_min", {})
    return [
        summary(own.numbers, "difference").centre
        for column in columns
        if (own := samples.get(str(column.pk))) is not None and own.numbers
    ]


def _line(found: Gathered, row: RowShape, low: RowShape, column: Column) -> list[str]:
    cell, slow = row.cells[str(column.pk)], low.cells[str(column.pk)]
    even = cell.tail.evenness if cell.tail else None
    metrics = found.samples[row.test].metrics
    beside = []
    for key, unit in (("hitch_rate_per_min", ""), ("pacing_unevenness_pct", " %")):
        sample = metrics.get(key, {}).get(str(column.pk))
        beside.append("" if sample is None else f"{figure(summary(sample.numbers, 'difference').centre)}{unit}")
    return [
        column.label,
        f"{figure(cell.centre)} {row.unit}",
        f"{figure(slow.centre)} {low.unit}",
        "" if even is None else figure(even),
        *beside,
    ]


KIND = Kind("lows", "lows and pacing", "1", make, ("without", "baseline"))
