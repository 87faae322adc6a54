"""What is needed to tell whether the baseline, measured again after others, is what it was."""

from dataclasses import dataclass

from nomothet.server.evidence.returned import Timed
from nomothet.server.matrix.lens import Context, Lens, LensResults
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import metric_of


@dataclass(frozen=True)
class Again:
    """The baseline's kept passes of the leading metric with the times they ran, and the other cells' values."""

    timed: list[Timed]
    rest: dict[str, list[float]]


def _build(context: Context, test: Test, _: LensResults) -> Again | None:
    baseline, evidence = context.shared.baseline, context.evidence
    if not context.review.returns_to_baseline or not test.shown or baseline is None:
        return None
    metric = metric_of(test, test.shown[0], context.review.low_definition)
    cells = evidence.values.get((test.pk, metric.key), {})
    own = cells.get(baseline)
    if own is None or any(own.thin):
        return None
    started = {row.number: row.started_at for row in evidence.passes if (row.test, row.column) == (test.pk, baseline)}
    timed = [Timed(started[number], value) for number, value in zip(own.passes, own.numbers, strict=True)]
    return Again(timed, {str(column): values.numbers for column, values in cells.items() if column != baseline})


AGAIN: Lens[Again | None] = Lens("again", Again | None, _build)  # type: ignore[arg-type]
