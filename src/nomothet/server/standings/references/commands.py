"""Taking results into a review as references, and taking them off it."""

from collections.abc import Mapping
from datetime import date
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.standings.keeping import keep, settings_tag, stale_tests
from nomothet.server.standings.models import Reference, Result
from nomothet.server.standings.references.freezing import frozen, seal_of

MOST = 12


def take(user: User, review: Review, column: Column) -> Reference:
    """Take the results of a column of another review, as they are now.

    Raises
    ------
    Problem
        422 when it is of this review or has no result; 409 when it stands there already.
    """
    require(user, Act.EDIT_REVIEW)
    if column.review_id == review.pk:
        raise unusable("This configuration is of this review; references are of others.", field="column")
    keep(stale_tests().filter(review=column.review_id).values_list("pk", flat=True))
    results = list(
        Result.objects.filter(column=column)
        .select_related("review", "column", "configuration", "system", "workload")
        .order_by("test__position", "pk")
    )
    if not results:
        raise unusable(f"{column.label} has no result in its review yet.", field="column")
    content = frozen(results)
    return _add(
        user,
        review,
        label=column.label,
        column=column,
        source=column.review.question,
        day=max(one.last_at for one in results).date(),
        content=content,
    )


def note_foreign(
    user: User, review: Review, *, label: str, source: str, day: date, figures: Mapping[int, float]
) -> Reference:
    """Put figures from outside beside a review, by its tests; each is of what its test shows first.

    Raises
    ------
    Problem
        422 when a test is none of the review's, or no figure is told.
    """
    require(user, Act.EDIT_REVIEW)
    tests = {test.pk: test for test in review.tests.select_related("workload")}
    strange = [pk for pk in figures if pk not in tests]
    if strange:
        raise unusable("A figure is of a test that this review does not have.", field="figures")
    if not figures:
        raise unusable("Tell the figure of one test at least.", field="figures")
    if day > timezone.now().date():
        raise unusable("It was told on a day that has been.", field="day")
    results = [_told(review, tests[pk], value) for pk, value in figures.items()]
    content = {"column": label, "system": "", "configuration": "", "revision": 0, "review": "", "results": results}
    return _add(
        user, review, kind=Reference.Kind.FOREIGN, label=label, column=None, source=source, day=day, content=content
    )


def _told(review: Review, test: Test, value: float) -> dict[str, Any]:
    metric = metric_of(test, test.shown[0], review.low_definition)
    return {
        "key": test.workload.key,
        "name": test.workload.name,
        "version": test.workload.version,
        "settings": settings_tag(test.settings),
        "metric": test.shown[0],
        "label": metric.label,
        "unit": metric.unit,
        "centre": value,
    }


def _add(user: User, review: Review, **fields: Any) -> Reference:
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        standing = review.references.filter(removed_at=None)
        if standing.count() >= MOST:
            raise unusable(f"A review has {MOST} references at most.", field="column")
        seal = seal_of(fields["content"])
        if standing.filter(column=fields["column"], seal=seal).exists():
            raise conflict(f"{fields['label']} stands beside this review already, as it is now.")
        last = review.references.aggregate(Max("number"))["number__max"] or 0
        made = Reference.objects.create(review=review, number=last + 1, seal=seal, taken_by=user, **fields)
        remember(user, "review", review.pk, "reference taken", {"reference": [None, f"{made.label}, {made.source}"]})
        announce("references", review=review.pk)
    return made


def take_off(user: User, reference: Reference, why: str) -> None:
    """Take a reference off its review; what it holds is kept, and it can be brought back."""
    require(user, Act.EDIT_REVIEW)
    _set(user, reference, removed=True, why=why)


def bring_back(user: User, reference: Reference) -> None:
    require(user, Act.EDIT_REVIEW)
    _set(user, reference, removed=False, why="")


def _set(user: User, reference: Reference, *, removed: bool, why: str) -> None:
    with transaction.atomic():
        locked = Reference.objects.select_for_update().get(pk=reference.pk)
        if (locked.removed_at is not None) == removed:
            raise conflict("Somebody was faster; it stands as you want it.")
        locked.removed_at = timezone.now() if removed else None
        locked.removed_why = why.strip()
        locked.save(update_fields=["removed_at", "removed_why"])
        act = "reference taken off" if removed else "reference brought back"
        remember(user, "review", locked.review_id, act, {"reference": [locked.label, locked.removed_why or None]})
        announce("references", review=locked.review_id)
