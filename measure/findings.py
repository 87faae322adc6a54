"""How fast findings are: of the demo's reviews, and of 20 configurations × 60 tests × 5 passes.

Run it beside ./start: .venv/bin/python measure/findings.py. It works in a transaction on the running installation's
database that is rolled back in the end, so that nothing of it stays. Times are told beside sorting a million numbers in
the same run.
"""

import os
import time
import uuid
from collections.abc import Callable
from datetime import timedelta

import django
import numpy as np

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
django.setup()

from django.core.cache import cache  # noqa: E402
from django.db import transaction  # noqa: E402
from django.utils import timezone  # noqa: E402

from nomothet.formats.words import METHOD_VERSION  # noqa: E402
from nomothet.server.analysis.computing import rules_of  # noqa: E402
from nomothet.server.analysis.models import Analysis  # noqa: E402
from nomothet.server.findings.findings import findings  # noqa: E402
from nomothet.server.findings.kept import kept, state_of, work_out  # noqa: E402
from nomothet.server.passes.models import Figure, Pass  # noqa: E402
from nomothet.server.people.models import User  # noqa: E402
from nomothet.server.reviews.models import Column, Review, Test  # noqa: E402
from nomothet.server.systems.models import Configuration, System  # noqa: E402
from nomothet.server.workloads.models import Workload  # noqa: E402

CONFIGURATIONS, TESTS, PASSES = 20, 60, 5
_TIMES = 5


class RolledBack(Exception):
    """Nothing of it is to stay."""


def main() -> None:
    """Measure both, and leave the database as it was."""
    sort_ms = least(lambda: np.sort(np.random.default_rng(1).random(1_000_000)))
    print(f"sorting a million numbers: {sort_ms:.0f} ms\n")
    try:
        with transaction.atomic():
            demo(sort_ms)
            large(sort_ms)
            raise RolledBack
    except RolledBack:
        print("\nrolled back")


def least(act: Callable[[], object], times: int = _TIMES) -> float:
    """The least time of several, in ms."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        found.append(1000 * (time.perf_counter() - began))
    return min(found)


def tell(what: str, ms: float, sort_ms: float) -> None:
    print(f"{what:<58} {ms:8.0f} ms  {ms / sort_ms:7.1f} × the sort")


def demo(sort_ms: float) -> None:
    reviews = list(Review.objects.filter(archived_at=None))
    for review in reviews:
        findings(review)
    tell(f"{len(reviews)} reviews together, kept", least(lambda: [findings(one) for one in reviews]), sort_ms)
    tell("the same worked out from kept cells", least(lambda: [work_out(one) for one in reviews]), sort_ms)

    def anew() -> None:
        cache.clear()
        for one in reviews:
            work_out(one)

    tell("the same from nothing", least(anew, 3), sort_ms)


def large(sort_ms: float) -> None:
    """A full review, whose frame rates and watts are made up."""
    review = build()
    size = f"{CONFIGURATIONS} × {TESTS} × {PASSES}"

    def anew() -> None:
        cache.clear()
        work_out(review)

    tell(f"{size} from nothing", least(anew, 2), sort_ms)
    tell(f"{size} worked out from kept cells", least(lambda: work_out(review), 3), sort_ms)
    tell(f"{size} kept", least(lambda: kept(state_of(review))), sort_ms)
    test = review.tests.first()
    assert test is not None

    def one_pass_changed() -> None:
        Test.objects.filter(pk=test.pk).update(stamp=test.stamp + uuid.uuid4().int % 10**9)
        work_out(review)

    tell(f"{size} after one pass changed", least(one_pass_changed, 3), sort_ms)
    print(f"{len(kept(state_of(review)) or [])} findings")


def build() -> Review:
    """The review with its passes, each with its figures and what was drawn."""
    rng = np.random.default_rng(7)
    editor = User.objects.filter(role__in=("editor", "admin")).first()
    assert editor is not None
    system = System.objects.create(key="measured", name="Measured")
    workload = Workload.objects.create(key="measured", name="Measured", version="1", kind="scene")
    review = Review.objects.create(
        key="measured",
        question="How fast is this?",
        editor=editor,
        target_fps=60.0,
        factors=[{"key": "power", "name": "power limit", "aspects": ["power_limit_w"], "levels": []}],
    )
    columns = [
        Column.objects.create(
            review=review,
            position=at,
            label=f"{15 + at} W",
            is_baseline=at == 0,
            configuration=Configuration.objects.create(
                system=system, name=f"{15 + at} W", settings={"power_limit_w": 15 + at}
            ),
        )
        for at in range(CONFIGURATIONS)
    ]
    tests = [
        Test.objects.create(
            review=review,
            position=at,
            workload=workload,
            detail=f"scene {at}",
            settings={"scene": at},
            shown=["average_fps", "low_1pct"],
        )
        for at in range(TESTS)
    ]
    now = timezone.now()
    passes, figures, looked_at = [], [], []
    for test in tests:
        for at, column in enumerate(columns):
            for number in range(1, PASSES + 1):
                now += timedelta(minutes=1)
                owner = Pass(
                    test=test, column=column, number=number, origin="bench", outcome="completed", started_at=now,
                    duration_s=60, whole_at=now, method_version=METHOD_VERSION, session=uuid.uuid4(),
                )  # fmt: skip
                rate = 60 * (1 - np.exp(-(at + 4) / 6)) * np.exp(rng.normal(0, 0.01))
                for metric, value in (("average_fps", rate), ("low_1pct_slowest_mean", 0.7 * rate)):
                    figures.append(
                        Figure(
                            owner=owner, metric=metric, unit="fps", direction="higher", scale="ratio",
                            obtained="captured", value=value, method_version=METHOD_VERSION,
                        )
                    )  # fmt: skip
                watts = 15.0 + at
                looked_at.append(
                    Analysis(
                        owner=owner,
                        method_version=METHOD_VERSION,
                        summary={"power": {"power": [watts, 60 * watts]}},
                        counted_by=rules_of(test),
                    )
                )
                passes.append(owner)
    Pass.objects.bulk_create(passes, 2000)
    Figure.objects.bulk_create(figures, 2000)
    Analysis.objects.bulk_create(looked_at, 2000)
    return review


if __name__ == "__main__":
    main()
