"""What a record tells beside its own results: references from elsewhere, and what was measured before an update."""

from dataclasses import dataclass
from datetime import date

from nomothet.server.reviews.models import Review
from nomothet.server.standings.keeping import keep, stale_tests
from nomothet.server.standings.models import Reference
from nomothet.server.standings.references.queries import ReferenceCell, references_of
from nomothet.server.standings.retests import measured_before_in
from nomothet.words.numbers import figure, with_unit

# A review whose question is public already is named; another one is not for readers.
_OF_THE_TEAM = "an earlier review of the team"


@dataclass(frozen=True)
class RecordReferenceRow:
    """A reference in a row of the record, in words."""

    test: int
    metric: str
    figure: str
    n: int
    told: str
    interval: str
    verdict: str
    stands: str


@dataclass(frozen=True)
class RecordReference:
    """Results from elsewhere, as they were taken."""

    number: int
    label: str
    source: str
    day: date
    outside: bool
    rows: list[RecordReferenceRow]


def record_references(review: Review, baseline: int | None) -> list[RecordReference]:
    """The references of a review against its baseline."""
    found = references_of(review, baseline)
    sources = {one.source_review for one in found.references if one.source_review is not None}
    public = set(
        Review.objects.filter(pk__in=sources, records__withdrawn_at=None, records__isnull=False).values_list(
            "pk", flat=True
        )
    )
    return [
        RecordReference(
            number=one.number,
            label=one.label,
            source=one.source if one.kind == Reference.Kind.FOREIGN or one.source_review in public else _OF_THE_TEAM,
            day=one.day,
            outside=one.kind == Reference.Kind.FOREIGN,
            rows=[_row(cell) for cell in one.cells],
        )
        for one in found.references
    ]


def _row(cell: ReferenceCell) -> RecordReferenceRow:
    half = "" if cell.half is None else f" ± {figure(cell.half)}"
    reasons = "; ".join(why.words for why in cell.reasons)
    return RecordReferenceRow(
        test=cell.test,
        metric=cell.metric,
        figure="none" if cell.centre is None else f"{with_unit(cell.centre, cell.unit)}{half}",
        n=cell.n,
        told=cell.told,
        interval=cell.interval,
        verdict="" if cell.verdict == "no margin" else cell.verdict,
        stands=": ".join(filter(None, [_PLACES.get(cell.place, cell.place), reasons])),
    )


_PLACES = {"": "the baseline has no result here", "foreign": "in no verdict", "beside": ""}


def record_measured_before(review: Review) -> list[str]:
    """The cells of a review that were measured before an update, as sentences."""
    # A record is for good, so it waits for all of them.
    keep(stale_tests().filter(review=review).values_list("pk", flat=True))
    cells = measured_before_in(review).cells
    tests = {one.pk: one for one in review.tests.select_related("workload")}
    columns = {one.pk: one.label for one in review.columns.all()}
    found = []
    for cell in cells:
        test = tests[cell.test]
        name = f"{test.workload.name} {test.detail}".strip()
        found.append(f"{name}, {columns[cell.column]}: {'; '.join(cell.words)}")
    return found
