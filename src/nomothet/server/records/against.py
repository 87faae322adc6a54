"""The rows of a record against every configuration that a reader may choose as the baseline."""

from dataclasses import dataclass

from nomothet.server.matrix.matrix import MatrixShape, rows_against
from nomothet.server.reviews.models import Review

# With more configurations, readers have the baseline of the review alone.
MOST_BASELINES = 12


@dataclass(frozen=True)
class AgainstShape:
    """A comparison as readers see it; `better` is where it stands when more is better."""

    told: str
    interval: str
    verdict: str
    better: float


def against(review: Review, shown: MatrixShape) -> dict[str, dict[str, dict[str, AgainstShape]]]:
    """Comparisons by baseline, row and configuration, all made by section 3 of the method."""
    columns = list(review.columns.values_list("pk", flat=True))
    if len(columns) > MOST_BASELINES:
        columns = [pk for pk in columns if pk == shown.baseline]
    rows = rows_against(review, [pk for pk in columns if pk != shown.baseline])
    if shown.baseline in columns:
        rows[shown.baseline] = shown.rows
    return {
        str(pk): {
            row.key: {
                column: AgainstShape(one.told, one.interval, one.verdict, one.better)
                for column, cell in row.cells.items()
                if (one := cell.comparison) is not None
            }
            for row in rows[pk]
        }
        for pk in columns
    }
