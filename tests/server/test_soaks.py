"""Soaks: their phases with figures of their own, and whether they were stable."""

import json
from typing import Any

import numpy as np

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, steady

ERRORS = {"metric": "errors", "unit": "", "direction": "lower", "scale": "difference"}


class Soaks(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        workload = Workload.objects.create(
            key="lamp-test", name="Lamp Test", version="2", kind="soak", runner="simulated", duration_s=60
        )
        self.test = Test.objects.create(review=self.scene.review, position=2, workload=workload, shown=["average_fps"])

    def soak(self, **changes: Any) -> dict[str, Any]:
        """One pass of the soak: 20 s of burst at 100 fps, 40 s at 80 fps."""
        column = self.scene.columns[0]
        ask_for_passes(self.scene.people["tester"], self.scene.review, [self.test.pk], [column.pk], 1)
        frames = np.concatenate([steady(100, 2000), steady(80, 3200, seed=2)])
        phases = [
            {"label": "burst", "start_s": 0.0, "end_s": float(frames[:2000].sum() / 1000) + 1e-6},
            {"label": "sustained", "start_s": float(frames[:2000].sum() / 1000) + 1e-6, "end_s": 1000.0},
        ]
        self.bench.deliver(frames, phases=phases, **changes)
        path = f"{self.review_path}/tests/{self.test.pk}/columns/{column.pk}"
        return dict(Browser("reader").json(path)["passes"][-1])

    def test_phases_have_figures_of_their_own(self) -> None:
        marks = {one["label"]: one["average_fps"] for one in self.soak()["marks"]}
        self.assertAlmostEqual(marks["burst"], 100, delta=0.2)
        self.assertAlmostEqual(marks["sustained"], 80, delta=0.2)

    def test_stable_is_as_long_as_asked_without_an_error(self) -> None:
        self.assertIn("stable for 1.0 min: errors were not counted", self.soak()["stability"])
        self.assertIn("no wrong result", self.soak(figures=[{**ERRORS, "value": 0}])["stability"])

    def test_errors_a_crash_and_a_short_run_are_told(self) -> None:
        self.assertIn("not stable: 3 wrong results", self.soak(figures=[{**ERRORS, "value": 3}])["stability"])
        self.assertIn("not stable: crashed after 12 s", self.soak(outcome="crashed", duration_s=12.0)["stability"])
        self.assertIn("not known: it lasted 30 s of the 1 min", self.soak(duration_s=30.0)["stability"])

    def test_other_passes_have_no_stability(self) -> None:
        self.fill(0, [60.0])
        shown = json.loads(Browser("reader").get(self.cell_path()).content)["passes"][0]
        self.assertEqual(shown["stability"], "")
