"""A review that findings of a kind are made in, with passes of given values."""

from datetime import UTC, datetime, timedelta
from typing import Any

from nomothet.server.analysis.models import Analysis
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import Configuration
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest

BEGAN = datetime(2026, 5, 4, 10, tzinfo=UTC)
RATES = {"unit": "fps", "direction": "higher", "scale": "ratio"}
TIMES = {"unit": "s", "direction": "lower", "scale": "ratio"}


class KindsTest(SceneTest):
    """A review whose columns and figures each test writes as it needs them."""

    def setUp(self) -> None:
        super().setUp()
        Review.objects.update(target_fps=None)
        self.review = self.scene.review
        Test.objects.filter(pk=self.scene.tests[0].pk).update(shown=["average_fps"])
        self.first, self.second = self.scene.columns
        self.walk = self.scene.tests[0]

    def column(self, label: str, step: int | None = None, **settings: Any) -> Column:
        made = Configuration.objects.create(
            system=self.scene.system, name=label, settings={"power_limit_w": 35, "fan_profile": 2, **settings}
        )
        at = self.review.columns.count()
        return Column.objects.create(review=self.review, position=at, configuration=made, label=label, step=step)

    def row(self, workload: Workload, shown: list[str], **settings: Any) -> Test:
        at = self.review.tests.count()
        detail = ", ".join(f"{key} {value}" for key, value in settings.items())
        return Test.objects.create(
            review=self.review, position=at, workload=workload, shown=shown, settings=settings, detail=detail
        )

    def vary(self, *aspects: str) -> None:
        factors = [{"key": one, "name": one.replace("_", " "), "aspects": [one], "levels": []} for one in aspects]
        Review.objects.filter(pk=self.review.pk).update(factors=factors, version=50 + len(factors))

    def passes(self, test: Test, column: Column, **metrics: list[float]) -> list[Pass]:
        """Kept passes with figures; `summary` of a pass is set by those that need one."""
        made: list[Pass] = []
        begun = Pass.objects.filter(test=test, column=column).count()
        for at in range(len(next(iter(metrics.values())))):
            owner = Pass.objects.create(
                test=test,
                column=column,
                number=begun + at + 1,
                origin="bench",
                outcome="completed",
                started_at=BEGAN + timedelta(minutes=2 * Pass.objects.count()),
                duration_s=60,
                whole_at=BEGAN,
                method_version=4,
            )
            for key, values in metrics.items():
                kind = TIMES if key.endswith("_s") else RATES
                Figure.objects.create(
                    owner=owner, metric=key, value=values[at], obtained="captured", method_version=4, **kind
                )
            made.append(owner)
        Test.objects.filter(pk=test.pk).update(stamp=Pass.objects.count())
        return made

    def looked_at(self, owner: Pass, **summary: Any) -> None:
        Analysis.objects.update_or_create(owner=owner, defaults={"method_version": 4, "summary": summary})

    def said(self, kind: str) -> list[dict[str, Any]]:
        answer = Browser("reader").get(f"{self.review_path}/findings")
        self.assertEqual(answer.status_code, 200, answer.content[:500])
        return [one for one in answer.json()["findings"] if one["kind"] == kind]

    def around(self, centre: float, n: int = 3) -> list[float]:
        return [centre * (1 + 0.001 * (at - (n - 1) / 2)) for at in range(n)]
