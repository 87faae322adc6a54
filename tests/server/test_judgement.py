"""Hypotheses, looks at flags, completeness, trust, pairs, recorder pairs, memory needed."""

import json
import uuid
from typing import Any

import numpy as np

from nomothet.server.analysis.models import Hypothesis, Look
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review, Test
from nomothet.server.shelf.models import Part
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, steady
from tests.server.recordings import deliver_recorded


class Hypotheses(SceneTest):
    def note(self, **more: object) -> dict[str, Any]:
        body = {
            "words": "the fan profile, not the power limit",
            "test": self.scene.tests[0].pk,
            "column": self.scene.columns[1].pk,
            **more,
        }
        answer = Browser("editor").send("post", f"{self.review_path}/hypotheses", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(json.loads(answer.content))

    def test_an_explanation_is_noted_with_its_author_and_open(self) -> None:
        made = self.note(decided_by="the same passes with the profile put back")
        (told,) = Browser("reader").json(f"{self.review_path}/hypotheses")
        self.assertEqual(told, made)
        self.assertEqual((told["status"], told["by"]), ("open", "Editor"))

    def test_tested_and_refuted_need_grounds(self) -> None:
        made = self.note()
        editor = Browser("editor")
        path = f"/api/hypotheses/{made['id']}"
        match = {"If-Match": '"v1"'}
        self.problem(editor.send("patch", path, {"status": "refuted"}, **match), 422)
        answer = editor.send("patch", path, {"status": "refuted", "grounds": "the profile was put back"}, **match)
        self.assertEqual(json.loads(answer.content)["version"], 2)
        events = Browser("reader").json(f"/api/history/hypothesis/{made['id']}")
        self.assertIn("refuted", str(events))

    def test_two_editors_do_not_overwrite_each_other(self) -> None:
        path = f"/api/hypotheses/{self.note()['id']}"
        editor = Browser("editor")
        self.assertEqual(editor.send("patch", path, {"words": "first"}, **{"If-Match": '"v1"'}).status_code, 200)
        self.problem(editor.send("patch", path, {"words": "second"}, **{"If-Match": '"v1"'}), 412)
        self.problem(editor.send("patch", path, {"words": "third"}), 428)
        self.assertEqual(Hypothesis.objects.get().words, "first")

    def test_the_test_that_decides_goes_on_the_docket(self) -> None:
        made = self.note(deciding_test=self.scene.tests[1].pk)
        path = f"/api/hypotheses/{made['id']}/docket"
        answer = Browser("tester").send("post", path, {"columns": [self.scene.columns[1].pk]})
        self.assertEqual(json.loads(answer.content)["asked"], 3)
        self.assertEqual(Entry.objects.filter(test=self.scene.tests[1]).count(), 3)
        without = self.note()
        columns = {"columns": [self.scene.columns[1].pk]}
        self.problem(Browser("tester").send("post", f"/api/hypotheses/{without['id']}/docket", columns), 409)

    def test_readers_and_testers_may_not(self) -> None:
        self.problem(Browser("tester").send("post", f"{self.review_path}/hypotheses", {"words": "x"}), 403)
        other = self.scene.new_review("other", "Another question?").tests.first()
        assert other is not None
        body = {"words": "x", "deciding_test": other.pk}
        self.problem(Browser("editor").send("post", f"{self.review_path}/hypotheses", body), 422)


class Completeness(SceneTest):
    def found(self) -> dict[str, Any]:
        return dict(Browser("reader").json(f"{self.review_path}/completeness"))

    def test_every_hole_has_its_reason(self) -> None:
        self.fill(0, [60.0, 60.1, 60.2])
        self.scene.owe(column=1, count=2)
        self.bench.deliver(None, outcome="crashed", note="after 12 s")
        self.scene.owe(test=1, column=0, count=3)
        for _ in range(1):
            Entry.objects.filter(test=self.scene.tests[0]).delete()
        self.scene.configurations[1].blocked = "no such cooler"
        reasons = {(hole["test"], hole["column"]): hole["reason"] for hole in self.found()["holes"]}
        test, suite = (test.pk for test in self.scene.tests)
        first, second = (column.pk for column in self.scene.columns)
        self.assertEqual(reasons[test, second], "failed")
        self.assertEqual(reasons[suite, first], "owed")
        self.assertEqual(reasons[suite, second], "never asked")
        self.assertNotIn((test, first), reasons)

    def test_a_flag_stays_until_somebody_has_looked(self) -> None:
        self.fill(0, [60.0, 60.1, 60.2, 60.05, 40.0])
        (flag,) = [one for one in self.found()["flags"] if "outlier" in one["words"]]
        self.assertEqual(flag["looked"], "")
        path = f"{self.cell_path()}/looks"
        self.problem(Browser("reader").send("put", path, {"flag": flag["key"]}), 403)
        for _ in range(2):
            self.assertEqual(Browser("tester").send("put", path, {"flag": flag["key"]}).status_code, 204)
        self.assertEqual(Look.objects.count(), 1)
        self.assertEqual([one["looked"] for one in self.found()["flags"] if "outlier" in one["words"]], ["Tester"])

    def test_an_untouched_review_is_all_holes(self) -> None:
        found = self.found()
        self.assertEqual((found["whole"], len(found["holes"]), found["done"]), (0, 4, False))


class Trust(SceneTest):
    def test_a_metric_that_is_not_trusted_is_shown_and_in_no_verdict(self) -> None:
        self.fill(0, [60.0, 60.1])
        self.fill(1, [50.0, 50.1])
        path = f"/api/workloads/{self.scene.scene.pk}/untrusted/average_fps"
        self.problem(Browser("tester").send("put", path, {"reason": "x"}), 403)
        self.problem(Browser("editor").send("put", path, {"reason": " "}), 422)
        self.assertEqual(Browser("editor").send("put", path, {"reason": "it counts the menu"}).status_code, 204)
        row = self.row()
        cell = row["cells"][str(self.scene.columns[1].pk)]
        self.assertIsNone(cell["comparison"])
        self.assertEqual(cell["why_not"], "not trusted: it counts the menu")
        self.assertAlmostEqual(cell["centre"], 50.05, delta=0.1)
        found = Browser("reader").json(f"{self.review_path}/completeness")
        self.assertEqual(found["untrusted"][0]["reason"], "it counts the menu")
        self.assertEqual(Browser("editor").send("delete", path).status_code, 204)
        self.assertIsNotNone(self.row()["cells"][str(self.scene.columns[1].pk)]["comparison"])


class PairsEverywhere(SceneTest):
    def test_a_pair_of_instruments_is_declared_in_every_test_that_shows_both(self) -> None:
        editor = Browser("editor")
        second = Test.objects.create(
            review=self.scene.review, position=5, workload=self.scene.scene, detail="again", shown=["average_fps"]
        )
        tests = [self.scene.tests[0].pk, second.pk]
        keys = []
        for label in ("wall power", "package power"):
            body = {"tests": tests, "kind": "reading", "label": label, "unit": "W", "direction": "lower"}
            editor.send("post", f"{self.review_path}/metrics", body)
            keys.append(Test.objects.get(pk=second.pk).metrics[-1]["key"])
        body = {"kind": "instrument", "test_a": tests[0], "metric_a": keys[0], "test_b": tests[0],
                "metric_b": keys[1], "counts": "a", "everywhere": True}  # fmt: skip
        self.assertEqual(editor.send("post", f"{self.review_path}/pairs", body).status_code, 201)
        told = set(self.scene.review.pairs.values_list("test_a", "test_b", "counts"))
        self.assertEqual(told, {(test, test, "a") for test in tests})


class Pairs(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        test = self.scene.tests[0]
        test.settings = {"resolution": "1080p"}
        test.save()
        self.other = Test.objects.create(
            review=self.scene.review,
            position=2,
            workload=self.scene.scene,
            settings={"resolution": "4K"},
            detail="4K",
            shown=["average_fps"],
        )

    def test_two_resolutions_are_proposed_with_their_pixels_and_gap(self) -> None:
        self.fill(0, [60.0, 60.1])
        self.scene.tests = list(self.scene.review.tests.all())
        self.scene.owe(test=2, count=2)
        for seed in (3, 4):
            self.bench.deliver(steady(30.0, seed=seed))
        (pair,) = Browser("reader").json(f"{self.review_path}/pairs")
        self.assertEqual((pair["kind"], pair["id"], pair["pixel_ratio"]), ("setting", None, 4.0))
        gap = pair["gaps"][str(self.scene.columns[0].pk)]
        self.assertAlmostEqual(gap["change"], -50, delta=0.3)
        self.assertTrue(gap["low"] < gap["change"] < gap["high"])

    def test_editions_are_proposed_only_where_somebody_has_said_why_they_compare(self) -> None:
        first = self.scene.tests[1]
        other = Workload.objects.create(
            key="loom", name="Loom", version="5", kind="suite", runner="simulated", metrics=first.workload.metrics
        )
        Test.objects.create(review=self.scene.review, position=8, workload=other, detail="all parts", shown=first.shown)

        def proposed() -> list[str]:
            found = Browser("reader").json(f"{self.review_path}/pairs")
            return [one["kind"] for one in found if one["kind"] == "edition"]

        self.assertEqual(proposed(), [])
        other.comparable = [{"version": "4", "why": "only the window changed"}]
        other.save()
        self.assertEqual(proposed(), ["edition"])

    def test_instruments_are_declared_and_one_counts(self) -> None:
        test = self.scene.tests[0]
        body = {
            "kind": "instrument",
            "test_a": test.pk,
            "metric_a": "average_fps",
            "test_b": test.pk,
            "metric_b": "low_1pct",
        }
        editor = Browser("editor")
        made = json.loads(editor.send("post", f"{self.review_path}/pairs", body).content)
        self.problem(editor.send("post", f"{self.review_path}/pairs", body), 409)
        self.assertEqual(editor.send("patch", f"/api/pairs/{made['id']}", {"counts": "b"}).status_code, 204)
        declared = Browser("reader").json(f"{self.review_path}/pairs")[0]
        self.assertEqual((declared["counts"], declared["kind_words"]), ("b", "two instruments for one quantity"))
        self.assertIn("another instrument counts", self.row()["untrusted"])
        self.assertEqual(self.row("low_1pct")["untrusted"], "")
        self.assertEqual(editor.send("delete", f"/api/pairs/{made['id']}").status_code, 204)

    def test_rows_that_cannot_be_a_pair_are_refused(self) -> None:
        test, suite = self.scene.tests
        same = {"kind": "setting", "test_a": test.pk, "metric_a": "average_fps"}
        for more, status in (
            ({"test_b": test.pk, "metric_b": "average_fps"}, 422),
            ({"test_b": suite.pk, "metric_b": "one_thread"}, 422),
            ({"test_b": test.pk, "metric_b": "nonsense"}, 422),
            ({"test_b": 999_999, "metric_b": "average_fps"}, 404),
        ):
            self.problem(Browser("editor").send("post", f"{self.review_path}/pairs", {**same, **more}), status)


class Recorder(SceneTest):
    def ask(self, pairs: int) -> None:
        body = {"test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk, "pairs": pairs}
        answer = Browser("tester").send("post", f"{self.review_path}/recorder", body)
        self.assertEqual(json.loads(answer.content)["asked"], 2 * pairs)

    def test_pairs_run_in_turns_and_give_the_factor(self) -> None:
        self.ask(2)
        turns = []
        for _ in range(4):
            pass_id, job = self.bench.take()
            turns.append(job["recorder"])
            Entry.objects.filter(pass_id=pass_id).update(state="owed", bench=None, pass_id=None)
            rate = 67.0 if job["recorder"] == "off" else 67.0 * 0.95
            self.bench.deliver(steady(rate, seed=len(turns)))
        self.assertEqual(turns, ["off", "on", "on", "off"])
        average, low = Browser("reader").json(f"{self.review_path}/recorder")
        self.assertEqual((average["metric"], low["metric"]), ("average_fps", "low_1pct"))
        self.assertAlmostEqual(average["tests"][0]["k"], 0.95, delta=0.002)
        self.assertEqual(average["tests"][0]["pairs"], 2)
        # Two pairs are one short of a correction for all tests of the workload.
        self.assertIsNone(average["k"])
        self.assertIn("fewer than 3 pairs", average["refused"])

    def test_a_row_is_corrected_by_its_own_pairs_and_a_held_one_is_not(self) -> None:
        self.fill(0, [60.0, 60.1])
        self.fill(1, [47.0, 47.1])
        self.ask(1)
        self.bench.deliver(steady(67.0))
        self.bench.deliver(steady(67.0 * 0.8))
        cells = self.row()["cells"]
        held, free = (cells[str(column.pk)] for column in self.scene.columns)
        self.assertEqual((held["held_fps"], held["corrected"]), (60.0, None))
        self.assertAlmostEqual(free["corrected"], free["centre"] / 0.8, delta=0.2)

    def test_a_cap_hides_what_recording_costs(self) -> None:
        self.ask(1)
        self.bench.deliver(steady(60.0))
        self.bench.deliver(steady(60.0))
        self.assertEqual(Browser("reader").json(f"{self.review_path}/recorder"), [])

    def test_they_are_in_no_centre_and_no_pip(self) -> None:
        self.fill(0, [60.0, 60.1])
        self.ask(1)
        self.bench.deliver(steady(90.0))
        self.bench.deliver(steady(90.0))
        cell = self.row()["cells"][str(self.scene.columns[0].pk)]
        self.assertEqual(cell["n"], 2)
        self.assertAlmostEqual(cell["centre"], 60.05, delta=0.1)
        self.assertEqual(Pass.objects.exclude(recorder="").count(), 2)

    def test_without_pairs_there_is_no_correction(self) -> None:
        self.fill(0, [67.0])
        self.assertEqual(Browser("reader").json(f"{self.review_path}/recorder"), [])
        self.assertIsNone(self.row()["cells"][str(self.scene.columns[0].pk)]["corrected"])


class MemoryNeeded(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        for size in (2, 4, 8):
            memory = [{"key": "memory_gb", "value": size, "unit": "GB", "label": "graphics memory", "source": "label"}]
            Part.objects.create(kind="graphics", name=f"Card of {size} GB", attributes=memory)

    def test_the_highest_use_with_its_reserve(self) -> None:
        for column, most in ((0, 2.5), (1, 3.95)):
            self.scene.owe(column=column)
            used = {("graphics memory used", "GB"): np.linspace(1, most, 40)}
            deliver_recorded(self.bench, steady(60.0, 2400), used)
        path = f"{self.review_path}/enough?quantity=graphics memory used"
        found = Browser("reader").json(path)
        # The use on the second configuration was cut off by its 4 GB, so the first is the one that tells.
        self.assertAlmostEqual(found["needed"], 3.0, delta=0.05)
        self.assertEqual((found["sizes"], found["sizes_from"]), ([2, 4, 8], "shelf"))
        self.assertEqual((found["size"], found["at_least"]), (4, False))
        self.assertEqual(Browser("reader").json(f"{path}&reserve=100")["size"], 8)
        self.assertIsNone(Browser("reader").json(f"{path}&idle=1")["idle"])

    def test_use_in_per_cent_of_an_unknown_size_is_no_amount(self) -> None:
        self.scene.owe()
        deliver_recorded(self.bench, steady(60.0, 2400), {("graphics memory used", "%"): np.full(40, 80.0)})
        problem = self.problem(Browser("reader").get(f"{self.review_path}/enough"), 422)
        self.assertIn("has a record of its graphics memory used", problem["detail"])

    def test_what_the_configuration_claims_cuts_off_where_the_file_has_no_capacity(self) -> None:
        configuration = self.scene.columns[0].configuration
        configuration.settings = {"graphics_memory_gb": 2.5}
        configuration.save()
        self.scene.owe()
        used = {("graphics memory used", "GB"): np.linspace(1, 2.5, 40)}
        deliver_recorded(self.bench, steady(60.0, 2400), used, capacity=None)
        (use,) = Browser("reader").json(f"{self.review_path}/enough")["uses"]
        self.assertEqual((use["capacity"], use["cut_off"]), (2.5, True))
        self.assertTrue(Browser("reader").json(f"{self.review_path}/enough")["at_least"])

    def test_the_levels_of_the_factor_are_on_offer(self) -> None:
        for column, size in zip(self.scene.columns, (4.0, 6.0), strict=True):
            column.configuration.settings = {"graphics_memory_gb": size}
            column.configuration.save()
        factor = {"key": "reserve", "name": "reserve", "aspects": ["graphics_memory_gb"], "levels": []}
        Review.objects.filter(pk=self.scene.review.pk).update(factors=[factor])
        self.scene.owe()
        deliver_recorded(
            self.bench, steady(60.0, 2400), {("graphics memory used", "GB"): np.linspace(1, 3, 40)}, capacity=None
        )
        found = Browser("reader").json(f"{self.review_path}/enough")
        self.assertEqual((found["sizes"], found["sizes_from"], found["size"]), ([4.0, 6.0], "levels", 4.0))

    def test_a_peak_that_was_typed_in_counts(self) -> None:
        workload = self.scene.suite
        workload.metrics = [
            {"key": "vram", "label": "graphics memory used", "unit": "MB", "direction": "lower", "scale": "ratio"}
        ]
        workload.save()
        Test.objects.filter(pk=self.scene.tests[1].pk).update(shown=["vram"])
        cell = {
            "test": self.scene.tests[1].pk,
            "column": self.scene.columns[0].pk,
            "metric": "vram",
            "text": "3072",
            "method": "glance at an overlay",
            "half_width": 0,
        }
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        self.assertEqual(Browser("tester").send("put", path, {"cells": [cell]}).status_code, 201)
        (use,) = Browser("reader").json(f"{self.review_path}/enough")["uses"]
        self.assertEqual((use["peak"], use["typed"]), (3.0, True))

    def test_without_a_record_it_says_so(self) -> None:
        self.problem(Browser("reader").get(f"{self.review_path}/enough"), 422)
        self.problem(Browser("reader").get(f"{self.review_path}/enough?quantity=luck"), 422)
