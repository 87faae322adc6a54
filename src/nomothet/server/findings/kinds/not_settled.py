"""What is not settled, test by test, and what would settle it (method 3)."""

from collections.abc import Sequence

from nomothet.core.noise import MOST_PASSES
from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.owing import owing
from nomothet.server.findings.rows import band_of_cell, told_with
from nomothet.server.findings.shapes import CellRef
from nomothet.server.matrix.row_shapes import ComparisonShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import settling_of

# So many rows are told by themselves, the rest together.
MOST_ROWS = 8
_Open = tuple[RowShape, Column, ComparisonShape]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each row with comparisons that are undecided or without noise; many more are told together."""
    base = found.baseline
    if base is None:
        return []
    leading = {row.key for row in found.leading()}
    by_row = [(row, of_row) for row in found.rows if (of_row := _open(found, row))]
    by_row.sort(key=lambda pair: pair[0].key not in leading)
    made = [
        _of(kind, found, base, row.key.replace(":", "-"), of_row, at)
        for at, (row, of_row) in enumerate(by_row[:MOST_ROWS])
    ]
    rest = [one for _, of_row in by_row[MOST_ROWS:] for one in of_row]
    if rest:
        made.append(_of(kind, found, base, "rest", rest, MOST_ROWS))
    return made


def _open(found: Gathered, row: RowShape) -> list[_Open]:
    pairs = [(column, row.cells.get(str(column.pk))) for column in found.others]
    return [
        (row, column, cell.comparison)
        for column, cell in pairs
        if cell is not None and cell.comparison is not None and cell.comparison.verdict in UNDECIDED
    ]


def _of(kind: Kind, found: Gathered, base: Column, key: str, open_ones: Sequence[_Open], at: int) -> Ranked:
    lacking: dict[tuple[int, int], int] = {}
    for row, column, one in open_ones:
        for pk, n in ((column.pk, one.n), (base.pk, one.n_baseline)):
            cell = (row.test, pk)
            lacking[cell] = max(lacking.get(cell, 0), wanted(one, n))
    lacking = {cell: count for cell, count in lacking.items() if count > 0}
    row, column, first = open_ones[0]
    return drawn_up(
        kind,
        found,
        Draft(
            key=key,
            sentence=note(
                "finding_not_settled",
                count=len(open_ones),
                rows=len({one.key for one, _, _ in open_ones}),
                name=found.name(row),
                own=column.label,
                baseline=base.label,
                told=told_with(first.told, first.interval),
                passes=sum(lacking.values()),
                unknown=sum(one.verdict == "noise unknown" for _, _, one in open_ones),
                hopeless=sum(one.verdict == "undecided" and one.needed is None for _, _, one in open_ones),
                sessions=sum(one.verdict == "undecided" and one.by == "sessions" for _, _, one in open_ones),
            ),
            use=Use.OPEN,
            columns=[base.pk, *(own.pk for _, own, _ in open_ones)],
            order=at,
            sure="open",
            told=first.told,
            verdict=first.verdict,
            compares=False,
            bands=[
                band_of_cell(
                    one.label if len({own.key for own, _, _ in open_ones}) == 1 else f"{one.label}, {found.name(own)}",
                    of,
                    one.pk,
                )
                for own, one, of in open_ones
                if own.scale == "ratio"
            ],
            cells=[CellRef(own.test, one.pk, own.metric) for own, one, _ in open_ones],
            heads=["test and metric", "configuration", "change", "what would settle it"],
            lines=[
                [found.name(own), one.label, told_with(of.told, of.interval), settling_of(of.verdict, of.settling)]
                for own, one, of in open_ones
            ],
            acts=owing(found, lacking),
        ),
    )


def wanted(one: ComparisonShape, n: int) -> int:
    """How many more passes a cell of n wants, so that a comparison can be settled; 0 where passes do not help."""
    if one.verdict == "noise unknown":
        return max(0, 2 - n)
    if one.needed is None or one.needed > MOST_PASSES:
        return 0
    return max(0, one.needed - n)


KIND = Kind("open", "not settled", "3", make, ("without", "baseline"))
