"""Ranges set aside, spans that count, and cuts: figures follow, raw data stays."""

import numpy as np
from django.test import override_settings

from nomothet.server.analysis.commands import recompute
from nomothet.server.analysis.models import AsideRange
from nomothet.server.analysis.tasks import recompute_old, recompute_review, recompute_test
from nomothet.server.passes.commands import stamp
from nomothet.server.passes.models import Figure, Pass, Series
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser, SceneTest
from tests.server.tasks import AT_ONCE

REASON = {"reason": "a system update was fetched"}


class RangesAside(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene.owe()
        # Twenty seconds: ten at 100 fps, ten at 50 fps.
        self.pass_id = self.bench.deliver(np.concatenate([np.full(1000, 10.0), np.full(500, 20.0)]), duration_s=20.0)
        self.tester = Browser("tester")
        self.path = f"/api/passes/{self.pass_id}/ranges"

    def average(self) -> float:
        return float(Figure.objects.get(owner=self.pass_id, metric="average_fps").value)

    def aside(self, start: float, end: float, who: str = "tester", **more: object) -> object:
        return Browser(who).send("post", self.path, {"start_s": start, "end_s": end, **REASON, **more})

    def test_figures_leave_it_out_and_the_capture_stays(self) -> None:
        before = bytes(Series.objects.get(owner=self.pass_id, name="frames").blob)
        self.assertAlmostEqual(self.average(), 75.0)
        self.assertEqual(self.aside(10.0, 20.0).status_code, 201)  # type: ignore[attr-defined]
        self.assertAlmostEqual(self.average(), 100.0)
        self.assertEqual(bytes(Series.objects.get(owner=self.pass_id, name="frames").blob), before)

    def test_who_why_and_when_stay_on_record_after_it_counts_again(self) -> None:
        self.aside(10.0, 20.0)
        kept = AsideRange.objects.get()
        self.assertEqual(Browser("editor").send("delete", f"/api/ranges/{kept.pk}").status_code, 204)
        self.assertAlmostEqual(self.average(), 75.0)
        (told,) = Browser("reader").json(self.cell_path())["passes"][0]["ranges"]
        self.assertEqual((told["by"], told["reason"], told["back_by"]), ("Tester", REASON["reason"], "Editor"))
        self.problem(self.tester.send("delete", f"/api/ranges/{kept.pk}"), 409)

    def test_it_stands_in_trace_and_distribution(self) -> None:
        self.aside(10.0, 20.0)
        bands = Browser("reader").json(f"/api/passes/{self.pass_id}/trace")["bands"]
        self.assertEqual([band["from_s"] for band in bands if band["kind"] == ""], [10])
        spread = Browser("reader").json(f"/api/passes/{self.pass_id}/distribution")
        self.assertEqual((spread["frames"], spread["curve_ms"][-1]), (1000, 10.0))

    def test_refusals_change_nothing(self) -> None:
        self.problem(self.aside(5.0, 4.0), 422)  # type: ignore[arg-type]
        self.problem(self.aside(30.0, 40.0), 422)  # type: ignore[arg-type]
        self.problem(self.aside(1.0, 2.0, reason=" "), 422)  # type: ignore[arg-type]
        self.problem(self.aside(1.0, 2.0, who="reader"), 403)  # type: ignore[arg-type]
        words = self.problem(self.aside(0.0, 20.0), 422)["detail"]  # type: ignore[arg-type]
        self.assertIn("Set the whole pass aside instead", words)
        self.assertEqual(AsideRange.objects.count(), 0)
        self.assertAlmostEqual(self.average(), 75.0)

    def test_the_same_range_twice_is_told(self) -> None:
        self.aside(2.0, 4.0)
        self.problem(self.aside(2.5, 3.5), 409)  # type: ignore[arg-type]
        self.assertEqual(AsideRange.objects.count(), 1)


class WhatCounts(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene.owe(count=2)
        frames = np.concatenate([np.full(1000, 10.0), np.full(500, 20.0)])
        self.passes = [self.bench.deliver(frames, duration_s=20.0) for _ in range(2)]
        self.test = self.scene.tests[0]
        self.path = f"{self.review_path}/tests/{self.test.pk}"

    def mark(self, pass_id: str, label: str, start: float, end: float) -> None:
        body = {"label": label, "start_s": start, "end_s": end}
        self.assertEqual(Browser("tester").send("post", f"/api/passes/{pass_id}/marks", body).status_code, 201)

    def change(self, **changes: object) -> None:
        answer = Browser("editor").send("patch", self.path, changes, **{"If-Match": "*"})
        self.assertEqual(answer.status_code, 200, answer.content)
        recompute_test.func(self.test.pk)

    def averages(self) -> dict[str, float]:
        found = Figure.objects.filter(metric="average_fps").values_list("owner", "value")
        return {str(owner): round(value, 6) for owner, value in found}

    def test_a_test_counts_the_same_part_of_every_pass(self) -> None:
        for pass_id in self.passes:
            self.mark(pass_id, "crowd", 10.0, 20.0)
        self.change(counts={"rule": "only", "labels": ["crowd"]})
        self.assertEqual(set(self.averages().values()), {50.0})
        self.change(counts={"rule": "without", "labels": ["crowd"]})
        self.assertEqual(set(self.averages().values()), {100.0})
        self.change(counts=None)
        self.assertEqual(set(self.averages().values()), {75.0})

    def test_a_pass_without_the_part_has_no_figures_and_says_so(self) -> None:
        self.mark(self.passes[0], "crowd", 10.0, 20.0)
        self.change(counts={"rule": "only", "labels": ["crowd"]})
        self.assertEqual(self.averages(), {self.passes[0]: 50.0})
        told = Browser("reader").json(self.cell_path())["passes"][1]
        self.assertIn("'crowd' is marked", told["no_figures"])

    def told(self) -> tuple[list[int], list[bool]]:
        """How many passes wait to be computed anew, as the matrix says it, and which, as the cell says it."""
        reader = Browser("reader")
        waiting = [one["passes"] for one in reader.json(f"{self.review_path}/matrix")["recounting"]]
        return waiting, [one["recounting"] for one in reader.json(self.cell_path())["passes"]]

    def test_figures_that_follow_what_counted_before_are_told_until_they_are_computed_anew(self) -> None:
        self.assertEqual(self.told(), ([], [False, False]))
        answer = Browser("editor").send("patch", self.path, {"skip_s": 10.0}, **{"If-Match": "*"})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(self.told(), ([2], [True, True]))
        recompute(Pass.objects.get(pk=self.passes[0]))
        stamp(Test.objects.filter(pk=self.test.pk))
        self.assertEqual(self.told(), ([1], [False, True]))
        recompute_test.func(self.test.pk)
        self.assertEqual(self.told(), ([], [False, False]))

    @override_settings(TASKS=AT_ONCE)
    def test_a_change_of_what_counts_is_heard_and_computed(self) -> None:
        editor = Browser("editor")
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(editor.send("patch", self.path, {"skip_s": 10.0}, **{"If-Match": "*"}).status_code, 200)
        self.assertEqual(set(self.averages().values()), {50.0})
        version = Review.objects.get(pk=self.scene.review.pk).version
        with self.captureOnCommitCallbacks(execute=True):
            answer = editor.send("patch", self.review_path, {"target_fps": 40}, **{"If-Match": f'"v{version}"'})
        self.assertEqual(answer.status_code, 200, answer.content)
        # At 50 fps no time is under 40 fps; all of it was under the 60 fps of before.
        self.assertEqual(self.shares(), {0.0})

    def test_what_a_lost_worker_left_over_is_done_at_the_next_start(self) -> None:
        Test.objects.filter(pk=self.test.pk).update(skip_s=10.0)
        recompute_old.func()
        self.assertEqual(set(self.averages().values()), {50.0})
        self.assertEqual(self.told(), ([], [False, False]))

    def test_a_mark_made_later_brings_the_figures(self) -> None:
        self.mark(self.passes[0], "crowd", 10.0, 20.0)
        self.change(counts={"rule": "only", "labels": ["crowd"]})
        self.mark(self.passes[1], "crowd", 0.0, 10.0)
        self.assertEqual(self.averages()[self.passes[1]], 100.0)

    def test_cuts_can_be_moved_after_the_passes_ran(self) -> None:
        self.change(skip_s=10.0)
        self.assertEqual(set(self.averages().values()), {50.0})
        history = Browser("reader").json(f"/api/history/review/{self.scene.review.pk}")
        self.assertIn("skip_s", str(history))

    def shares(self) -> set[float]:
        return set(Figure.objects.filter(metric="under_target_share").values_list("value", flat=True))

    def test_a_reader_may_not(self) -> None:
        self.problem(Browser("tester").send("patch", self.path, {"skip_s": 1.0}, **{"If-Match": "*"}), 403)

    def test_a_new_target_is_judged_anew(self) -> None:
        Review.objects.filter(pk=self.scene.review.pk).update(target_fps=80)
        recompute_review.func(self.scene.review.pk)
        shares = set(Figure.objects.filter(metric="under_target_share").values_list("value", flat=True))
        self.assertEqual({round(share, 6) for share in shares}, {50.0})

    def test_passes_of_an_earlier_method_are_computed_anew(self) -> None:
        Pass.objects.get(pk=self.passes[0]).analysis.delete()
        Figure.objects.filter(owner=self.passes[0]).delete()
        recompute_old.func()
        self.assertEqual(self.averages()[self.passes[0]], 75.0)
