"""Computes passes anew when a review says that something has changed on which their figures depend.

What computes is read when it is wanted first: every command connects receivers, and few compute.
"""

from typing import Any

from django.dispatch import receiver

from nomothet.server.reviews.signals import counting_changed, target_changed


@receiver(counting_changed)
def count_anew(test: int, **_: Any) -> None:
    from nomothet.server.analysis.tasks import recompute_test

    recompute_test.enqueue(test)


@receiver(target_changed)
def judge_anew(review: int, **_: Any) -> None:
    from nomothet.server.analysis.tasks import recompute_review

    recompute_review.enqueue(review)
