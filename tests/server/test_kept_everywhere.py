"""One meaning of "kept": every place that counts passes leaves out the same ones, and every figure the same parts."""

import csv
import io
from collections.abc import Callable
from typing import Any

import numpy as np
from django.utils import timezone

from nomothet.server.analysis.tasks import recompute_test
from nomothet.server.evidence.pooled_lows import pooled_lows
from nomothet.server.findings.findings import findings
from nomothet.server.matrix.export import comparison_lines, figure_lines
from nomothet.server.matrix.matrix import matrix, seen
from nomothet.server.overview.workloads import fitness
from nomothet.server.passes.models import Pass
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.records.content import record_content
from nomothet.server.reviews.models import Review, Test
from nomothet.server.verdicts.verdict import verdict_shape
from tests.server.base import Browser, SceneTest, steady

KEPT = 3


class Consumers(SceneTest):
    """Reads the same cell, the first test on the first configuration, in every place that counts its passes."""

    @property
    def review(self) -> Review:
        return Review.objects.get(pk=self.scene.review.pk)

    @property
    def test(self) -> Test:
        return Test.objects.select_related("review", "workload").get(pk=self.scene.tests[0].pk)

    def row_cell(self, rows: Any) -> Any:
        (row,) = (one for one in rows if one["test"] == self.test.pk and one["metric"] == "average_fps")
        return row["cells"][str(self.scene.columns[0].pk)]

    def row(self) -> tuple[int, float]:
        cell = self.row_cell(Browser("reader").json(f"{self.review_path}/matrix")["rows"])
        return cell["n"], round(cell["centre"], 6)

    def record(self) -> tuple[int, float]:
        content = record_content(
            self.review,
            seen(self.review),
            verdict_shape(self.review),
            findings(self.review),
            self.scene.people["editor"],
            timezone.now(),
        )
        cell = self.row_cell(content["matrix"]["rows"])
        return cell["n"], round(cell["centre"], 6)

    def comparisons(self) -> tuple[int, float]:
        lines = csv.DictReader(io.StringIO("".join(comparison_lines(self.review, matrix(self.review)))))
        label = self.scene.columns[0].label
        row = next(one for one in lines if one["configuration"] == label and one["metric"] == "average_fps")
        return int(row["n"]), round(float(row["centre"]), 6)

    def exported(self) -> tuple[int, float]:
        lines = csv.DictReader(io.StringIO("".join(figure_lines(self.review))))
        values = [float(one["value"]) for one in lines if one["counts"] == "yes" and one["metric"] == "average_fps"]
        return len(values), round(float(np.mean(values)), 6)

    def pane(self) -> tuple[int, float]:
        passes = [one for one in Browser("reader").json(self.cell_path())["passes"]
                  if one["outcome"] == "completed" and not one["set_aside"] and not one["recorder"]]  # fmt: skip
        values = [figure["value"] for one in passes for figure in one["figures"] if figure["metric"] == "average_fps"]
        return len(values), round(float(np.mean(values)), 6)

    def of_value(self) -> dict[str, Callable[[], tuple[int, float]]]:
        return {
            "row": self.row, "record": self.record, "comparisons": self.comparisons, "figures": self.exported,
            "pane": self.pane,
        }  # fmt: skip


class Passes(Consumers):
    """Four passes, the fourth of which must not count."""

    def setUp(self) -> None:
        super().setUp()
        self.scene.owe(count=KEPT + 1)
        for seed in range(KEPT):
            self.bench.deliver(steady(60, 800, seed=seed))

    def counted(self) -> dict[str, int]:
        overview = next(one for one in Browser("reader").json("/api/reviews") if one["id"] == self.review.pk)
        other = self.scene.new_review("other", "Does it hold elsewhere?")
        borrowed = borrowed_noises([(self.test.workload_id, "average_fps", "ratio")], other)
        (low,) = (one for one in pooled_lows(self.test, list(Pass.objects.filter(test=self.test)))
                  if one.metric == "low_1pct")  # fmt: skip
        return {
            **{name: found()[0] for name, found in self.of_value().items()},
            "list": overview["kept"],
            "fitness": next(one.passes for one in fitness() if one.workload == self.test.workload_id),
            # Degrees of freedom, and one for the mean.
            "noise": borrowed[self.test.workload_id, "average_fps"].df + 1,
            "pooled low": low.passes,
        }

    def check(self, leave_out: Callable[[str], object], outcome: str = "completed") -> None:
        fourth = self.bench.deliver(steady(30, 800, seed=9), outcome=outcome)
        leave_out(fourth)
        counted = self.counted()
        self.assertEqual(counted, dict.fromkeys(counted, KEPT))

    def test_a_pass_set_aside(self) -> None:
        self.check(lambda one: Browser("tester").send("put", f"/api/passes/{one}/set-aside", {"reason": "a guest"}))

    def test_a_pass_of_a_recorder_pair(self) -> None:
        self.check(lambda one: Pass.objects.filter(pk=one).update(recorder="on"))

    def test_a_pass_that_failed(self) -> None:
        self.check(lambda one: None, outcome="crashed")

    def test_a_pass_that_is_not_whole(self) -> None:
        self.check(lambda one: Pass.objects.filter(pk=one).update(whole_at=None))

    def test_a_pass_that_counts_is_counted_everywhere(self) -> None:
        self.bench.deliver(steady(60, 800, seed=9))
        counted = self.counted()
        self.assertEqual(counted, dict.fromkeys(counted, KEPT + 1))


class Parts(Consumers):
    """Two passes of five seconds at 100 fps and five at 50 fps, of which only the first half must count."""

    def setUp(self) -> None:
        super().setUp()
        self.scene.owe(count=2)
        frames = np.concatenate([np.full(500, 10.0), np.full(250, 20.0)])
        self.passes = [self.bench.deliver(frames, duration_s=10.0) for _ in range(2)]

    def check(self) -> None:
        recompute_test.func(self.test.pk)
        found = {name: one() for name, one in self.of_value().items()}
        self.assertEqual(found, dict.fromkeys(found, (2, 100.0)))
        pooled = pooled_lows(self.test, list(Pass.objects.filter(test=self.test)))
        self.assertEqual({one.frames for one in pooled}, {1000})
        self.assertEqual({round(one.value, 6) for one in pooled}, {100.0})
        for pass_id in self.passes:
            spread = Browser("reader").json(f"/api/passes/{pass_id}/distribution")
            self.assertEqual(spread["frames"], 500)

    def test_a_range_set_aside(self) -> None:
        for pass_id in self.passes:
            body = {"start_s": 5.0, "end_s": 10.0, "reason": "a system update was fetched"}
            self.assertEqual(Browser("tester").send("post", f"/api/passes/{pass_id}/ranges", body).status_code, 201)
        self.check()

    def test_a_cut_at_the_end(self) -> None:
        Test.objects.filter(pk=self.test.pk).update(end_cut_s=5.0)
        self.check()

    def test_a_span_that_alone_counts(self) -> None:
        for pass_id in self.passes:
            body = {"label": "walk", "start_s": 0.0, "end_s": 5.0}
            self.assertEqual(Browser("tester").send("post", f"/api/passes/{pass_id}/marks", body).status_code, 201)
        Test.objects.filter(pk=self.test.pk).update(counts={"rule": "only", "labels": ["walk"]})
        self.check()


class Claims(SceneTest):
    """A pass whose machine is not what its configuration says is told in every lens, and stays in the centre."""

    def flagged(self, **environment: Any) -> list[dict[str, Any]]:
        self.scene.owe()
        self.bench.deliver(steady(60, 1200), environment=environment)
        found = Browser("reader").json(f"{self.review_path}/matrix")["flags"]
        cells = next(row["cells"] for row in found if row["test"] == self.scene.tests[0].pk)
        flags = cells.get(str(self.scene.columns[0].pk), [])
        return [one for one in flags if one["code"] == "not_as_claimed"]

    def test_what_was_read_against_what_was_set(self) -> None:
        settings = {"memory_mts": 5600, "power_limit_w": 35}
        (flag,) = self.flagged(settings=settings, observed={"memory_mts": 4800, "power_limit_w": 35})
        self.assertEqual((flag["severity"], flag["passes"]), ("warns", [1]))
        self.assertRegex(flag["words"], "was 4800 MT/s, not 5600 MT/s, in pass 1")

    def test_rounding_within_5_percent_is_none(self) -> None:
        # 5600 · 0.95 = 5320: at the edge it agrees, beyond it does not.
        self.assertEqual(self.flagged(settings={"memory_mts": 5600}, observed={"memory_mts": 5320}), [])

    def test_the_clock_of_a_memory_is_half_its_speed_and_no_other_speed(self) -> None:
        self.assertEqual(self.flagged(settings={"memory_mts": 4800}, observed={"memory_mts": 2400}), [])

    def test_beyond_it_is_one(self) -> None:
        self.assertEqual(len(self.flagged(settings={"memory_mts": 5600}, observed={"memory_mts": 5319})), 1)
