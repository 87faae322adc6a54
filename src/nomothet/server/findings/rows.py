"""What the kinds of findings ask of a row, and how they draw one comparison."""

from collections.abc import Sequence

from nomothet.core.pairwise import Pairwise, Turn
from nomothet.server.findings.shapes import FindingBand, FindingDot
from nomothet.server.matrix.row_shapes import ComparisonShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import change_of, changes_of

# Why a cell with a figure shows nothing of a difference.
SHOWS_NOTHING = ("held_at", "masked")


def metric_of_row(row: RowShape) -> str:
    """The plain name of what a row measures, without how its low is defined."""
    return row.label.split(",")[0]


def turn_of(row: RowShape) -> Turn:
    """Which way a row is better."""
    return "lower" if row.direction == "lower" else "higher"


def compares(row: RowShape) -> bool:
    """Whether a row can be compared by ratios and be ahead or behind."""
    return row.scale == "ratio" and row.direction != "neither" and not row.untrusted


def counts(row: RowShape, column: Column) -> bool:
    """Whether a cell has a figure that shows something."""
    cell = row.cells.get(str(column.pk))
    return cell is not None and not cell.thin and cell.why_not_code not in SHOWS_NOTHING


def band_of(label: str, one: Pairwise, column: int = 0, dots: Sequence[FindingDot] = ()) -> FindingBand:
    """A comparison as a mark; `column` is 0 for what is no configuration."""
    return FindingBand(
        column=column,
        label=label,
        better=100 * (one.ratio - 1),
        low=None if one.low is None else 100 * (one.low - 1),
        high=None if one.high is None else 100 * (one.high - 1),
        told=change_of(one.ratio),
        interval=changes_of(one.low, one.high),
        verdict=one.verdict,
        dots=list(dots),
    )


def band_of_cell(label: str, one: ComparisonShape, column: int) -> FindingBand:
    """The comparison of a cell of the matrix as a mark."""
    return FindingBand(
        column, label, one.better, one.better_low, one.better_high, one.told, one.interval, one.verdict, []
    )


def told_with(told: str, interval: str) -> str:
    """An amount with its interval, where it has one.

    >>> told_with("+3.0 %", "+1.0 to +5.0 %"), told_with("+3.0 %", "")
    ('+3.0 % (+1.0 to +5.0 %)', '+3.0 %')
    """
    return f"{told} ({interval})" if interval else told
