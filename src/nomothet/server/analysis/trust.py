"""Looks at flags, and metrics that are not trusted."""

from django.db import transaction

from nomothet.server.analysis.models import Look, Untrusted
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.passes.commands import stamp
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Test
from nomothet.server.workloads.models import Workload


def look_at(user: User, test: Test, column: Column, flag: str, words: str) -> Look:
    """Somebody has looked at a flag and lets it stand; the same flag is not asked about again."""
    require(user, Act.SET_ASIDE)
    if test.review_id != column.review_id:
        raise unusable("The test and the configuration belong to different reviews.")
    with transaction.atomic():
        look, _ = Look.objects.update_or_create(
            test=test, column=column, flag=flag[:200], defaults={"words": words.strip(), "by": user}
        )
        # A pass that was left out because of its flag counts from now on.
        stamp(Test.objects.filter(pk=test.pk))
        announce("looks", review=test.review_id)
    return look


def distrust(user: User, workload: Workload, metric: str, reason: str) -> Untrusted:
    """Leave a metric of a workload out of every verdict, in all reviews, with a reason; it stays visible."""
    require(user, Act.EDIT_WORKLOADS)
    if not reason.strip():
        raise unusable("Say why this metric is not to be trusted.", field="reason")
    with transaction.atomic():
        kept, _ = Untrusted.objects.update_or_create(
            workload=workload, metric=metric, defaults={"reason": reason.strip(), "by": user}
        )
        remember(user, "workload", workload.pk, "metric not trusted", {metric: [None, reason.strip()]})
        _announce(workload)
    return kept


def trust(user: User, workload: Workload, metric: str) -> None:
    """Let a metric count again."""
    require(user, Act.EDIT_WORKLOADS)
    with transaction.atomic():
        held = Untrusted.objects.filter(workload=workload, metric=metric).first()
        if held is None:
            return
        remember(user, "workload", workload.pk, "metric trusted again", {metric: [held.reason, None]})
        held.delete()
        _announce(workload)


def _announce(workload: Workload) -> None:
    tests = Test.objects.filter(workload=workload)
    # Results that standings keep say why they stand apart.
    stamp(tests)
    for review in sorted(set(tests.values_list("review", flat=True))):
        announce("review", review=review)
