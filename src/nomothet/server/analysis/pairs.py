"""Declaring pairs of rows: built-in test and real play, two settings, two editions, two instruments."""

from django.db import IntegrityError, transaction

from nomothet.server.analysis.models import Pair
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of


def add_pair(user: User, review: Review, kind: str, a: tuple[Test, str], b: tuple[Test, str], counts: str = "") -> Pair:
    """Look at two rows together."""
    require(user, Act.EDIT_REVIEW)
    (test_a, metric_a), (test_b, metric_b) = a, b
    if {test_a.review_id, test_b.review_id} != {review.pk}:
        raise unusable("Both rows must be of this review.")
    if (test_a.pk, metric_a) == (test_b.pk, metric_b):
        raise unusable("A pair is of two rows.", field="metric_b")
    for test, metric, field in ((test_a, metric_a, "metric_a"), (test_b, metric_b, "metric_b")):
        if metric not in test.shown:
            raise unusable(f"{test.workload.name} does not show {metric}.", field=field)
    first = metric_of(test_a, metric_a, review.low_definition)
    second = metric_of(test_b, metric_b, review.low_definition)
    if first.unit != second.unit or first.scale != second.scale:
        raise unusable(f"{first.label} in {first.unit} and {second.label} in {second.unit} have no gap.")
    try:
        with transaction.atomic():
            made = Pair.objects.create(
                review=review, kind=kind, test_a=test_a, metric_a=metric_a, test_b=test_b, metric_b=metric_b,
                counts=counts, by=user,
            )  # fmt: skip
            touch(user, review, "pair declared", {"pair": [None, f"{first.label} and {second.label}"]})
    except IntegrityError:
        raise conflict("These two rows are a pair already.") from None
    return made


def add_pair_everywhere(
    user: User, review: Review, kind: str, a: tuple[Test, str], b: tuple[Test, str], counts: str = ""
) -> Pair:
    """The same pair in every test that shows both metrics and does not have it yet; returns that of the test named."""
    (test, metric_a), (_, metric_b) = a, b
    with transaction.atomic():
        made = add_pair(user, review, kind, a, b, counts)
        if test.pk != b[0].pk:
            return made
        known = set(
            review.pairs.filter(metric_a__in=(metric_a, metric_b), metric_b__in=(metric_a, metric_b)).values_list(
                "test_a", flat=True
            )
        )
        for other in review.tests.select_related("workload").exclude(pk__in=known):
            if {metric_a, metric_b} <= set(other.shown):
                add_pair(user, review, kind, (other, metric_a), (other, metric_b), counts)
    return made


def choose_instrument(user: User, pair: Pair, counts: str) -> None:
    """Say which of two instruments counts; both stay visible."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        before, pair.counts = pair.counts, counts
        pair.save(update_fields=["counts"])
        touch(user, pair.review, "instrument chosen", {"counts": [before, counts]})


def remove_pair(user: User, pair: Pair) -> None:
    """Look at two rows apart again; no figure changes."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        pair.delete()
        touch(user, pair.review, "pair taken off")
