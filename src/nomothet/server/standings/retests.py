"""The cells of a review that were measured before an update, and asking for the same anew."""

from dataclasses import dataclass

from django.db import transaction

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict
from nomothet.server.reviews.commands.review import duplicate_review
from nomothet.server.reviews.models import Review
from nomothet.server.standings.measured_before import measured_before
from nomothet.server.standings.models import Result
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.words import say


@dataclass(frozen=True)
class MeasuredBeforeCell:
    """A cell whose passes ran before an update, with what is other now."""

    test: int
    column: int
    words: list[str]


@dataclass(frozen=True)
class MeasuredBeforeShape:
    """The cells of a review that were measured before an update. `waiting` counts tests whose results are being made,
    of which this is known in a moment."""

    cells: list[MeasuredBeforeCell]
    waiting: int


@dataclass(frozen=True)
class RetestShape:
    """The review in which the same is measured anew, and how many passes are owed in it."""

    review: int
    passes: int


def measured_before_in(review: Review) -> MeasuredBeforeShape:
    """The cells of a review, by what leads in each test."""
    waiting = make_what_is_stale(review=review.pk)
    results = list(
        Result.objects.filter(review=review, leads=True).select_related("configuration", "workload").order_by("pk")
    )
    found = measured_before(results)
    return MeasuredBeforeShape(
        [
            MeasuredBeforeCell(one.test_id, one.column_id, [say(why) for why in found[one.pk]])
            for one in results
            if one.pk in found
        ],
        waiting,
    )


def measure_anew(user: User, review: Review) -> RetestShape:
    """A review of its own with the same tests, settings, margins and expectation on the latest revisions, owing the
    passes of what was measured before. What was measured stays as it is.

    Raises
    ------
    Problem
        409 when nothing of the review was measured before an update, or it is being worked out.
    """
    require(user, Act.EDIT_REVIEW)
    before = measured_before_in(review)
    if before.waiting:
        raise conflict("What was measured before is being worked out; ask again in a moment.")
    cells = before.cells
    if not cells:
        raise conflict("Nothing of this review was measured before an update that is known of.")
    tests = list(review.tests.order_by("position").values_list("pk", flat=True))
    columns = list(review.columns.order_by("position"))
    with transaction.atomic():
        made = duplicate_review(user, review)
        new_tests = list(made.tests.order_by("position"))
        new_columns = list(made.columns.select_related("configuration").order_by("position"))
        for column in new_columns:
            latest = column.configuration
            while later := getattr(latest, "replaced_by", None):
                latest = later
            if latest.pk != column.configuration_id:
                column.configuration = latest
                column.save(update_fields=["configuration"])
        at = {column.pk: place for place, column in enumerate(columns)}
        asked = 0
        for cell in cells:
            test, column = new_tests[tests.index(cell.test)], new_columns[at[cell.column]]
            if not column.configuration.blocked:
                count = max(1, review.passes_per_test)
                asked += len(ask_for_passes(user, made, [test.pk], [column.pk], count))
        told = sorted({words for cell in cells for words in cell.words})
        remember(user, "review", made.pk, "measured anew", {"because": [None, "; ".join(told)]})
        remember(user, "review", review.pk, "measured anew", {"in": [None, made.question]})
    return RetestShape(made.pk, asked)
