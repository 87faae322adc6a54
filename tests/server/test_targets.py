"""Targets: of the brief for all tests, of a test for itself; told in the grid, in what is missing, and exported."""

import csv
import io
import uuid
from typing import Any

from nomothet.server.reviews.models import Review, Test
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest

METER = {"method": "meter", "half_width": 0.1}


class TargetTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        Review.objects.update(target_fps=60)
        editor = Browser("editor")
        body = {"tests": [self.scene.tests[0].pk], "kind": "reading", "label": "noise", "unit": "dB(A)",
                "direction": "lower", "scale": "difference"}  # fmt: skip
        self.assertEqual(editor.send("post", f"{self.review_path}/metrics", body).status_code, 201)

    def type_in(self, metric: str, text: str, column: int = 0) -> None:
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[column].pk, "metric": metric}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        answer = Browser("tester").send("put", path, {"cells": [{**cell, "text": text, **METER}]})
        self.assertEqual(answer.status_code, 201, answer.content)

    def brief(self, **changes: Any) -> None:
        version = Review.objects.get(pk=self.scene.review.pk).version
        answer = Browser("editor").send("patch", self.review_path, changes, **{"If-Match": f'"v{version}"'})
        self.assertEqual(answer.status_code, 200, answer.content)

    def of_test(self, status: int = 200, **targets: Any) -> Any:
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}"
        answer = Browser("editor").send("patch", path, {"targets": targets}, **{"If-Match": "*"})
        if status != 200:
            return self.problem(answer, status)
        self.assertEqual(answer.status_code, 200, answer.content)
        return None

    def told(self, metric: str = "average_fps", column: int = 0) -> list[tuple[str, str]]:
        targets = self.row(metric)["targets"].get(str(self.scene.columns[column].pk), [])
        return [(one["code"], one["words"]) for one in targets]


class Rates(TargetTest):
    def test_average_and_low_both_reach_it_or_only_the_average(self) -> None:
        self.type_in("average_fps", "75 76 74")
        self.type_in("low_1pct", "64 65 66")
        self.type_in("average_fps", "75 76 74", 1)
        self.type_in("low_1pct", "50 51 52", 1)
        self.assertEqual(self.told(), [("met", "60 fps: met")])
        self.assertEqual(self.told(column=1), [("average only", "60 fps: average only")])

    def test_a_test_without_lows_is_judged_by_its_average_alone(self) -> None:
        Test.objects.filter(pk=self.scene.tests[0].pk).update(shown=["average_fps"])
        self.type_in("average_fps", "75 76 74")
        self.assertEqual(self.told(), [("met", "60 fps: met")])
        cell = self.row()["cells"][str(self.scene.columns[0].pk)]
        self.assertTrue(any("this test has no lows" in words for words in cell["basis"]))

    def test_a_single_pass_says_so(self) -> None:
        self.type_in("average_fps", "50")
        self.assertEqual(self.told(), [("missed", "60 fps: missed, on one pass")])

    def test_a_cell_without_figures_cannot_tell(self) -> None:
        self.type_in("average_fps", "70")
        self.assertEqual(self.told(column=1), [("cannot tell", "60 fps: cannot tell, no figure")])

    def test_a_test_has_its_own_target_or_none(self) -> None:
        self.type_in("average_fps", "50 50 50")
        self.of_test(average_fps=30)
        self.assertEqual(self.told()[0][1].split(":")[0], "30 fps")
        self.of_test(average_fps=None)
        self.assertEqual(self.told(), [])


class Limits(TargetTest):
    def test_the_brief_holds_all_rows_of_a_unit_to_a_limit(self) -> None:
        self.brief(targets={"dB(A)": 35})
        self.type_in("noise", "33 34 33.5")
        self.type_in("noise", "34 36 38", 1)
        self.assertEqual(self.told("noise"), [("met", "at most 35 dB(A): met")])
        self.assertEqual(self.told("noise", 1)[0][0], "missed")

    def test_a_score_is_to_reach_its_target_from_below(self) -> None:
        path = f"{self.review_path}/tests/{self.scene.tests[1].pk}"
        Browser("editor").send("patch", path, {"targets": {"one_thread": 900}}, **{"If-Match": "*"})
        for column, text in ((0, "950 955 960"), (1, "895 905 900")):
            cell = {"test": self.scene.tests[1].pk, "column": self.scene.columns[column].pk, "metric": "one_thread"}
            body = {"cells": [{**cell, "text": text, **METER}]}
            Browser("tester").send("put", f"{self.review_path}/typed/{uuid.uuid4()}", body)
        self.assertEqual(self.told("one_thread"), [("met", "900 points: met")])
        self.assertEqual(self.told("one_thread", 1)[0][0], "missed")

    def test_no_failure_is_a_target_too(self) -> None:
        self.brief(target_no_failure=True)
        self.type_in("average_fps", "75 76 c")
        self.type_in("average_fps", "75 76", 1)
        self.assertIn(("missed", "no failure: missed, 1 of 3 crashed"), self.told())
        self.assertIn(("met", "no failure: met, 2 passes"), self.told(column=1))
        self.of_test(no_failure=False)
        self.assertEqual([code for code, words in self.told() if words.startswith("no failure")], [])

    def test_nonsense_is_refused_by_name(self) -> None:
        self.assertIn("no metric 'sharpness'", self.of_test(422, sharpness=3)["detail"])
        self.assertIn("must be a number", self.of_test(422, average_fps="fast")["detail"])
        self.assertIn("either so or not", self.of_test(422, no_failure=3)["detail"])
        version = Review.objects.get(pk=self.scene.review.pk).version
        for wrong in ({"W": "low"}, {"W": True}, {" ": 3}, ["W"]):
            answer = Browser("editor").send(
                "patch", self.review_path, {"targets": wrong}, **{"If-Match": f'"v{version}"'}
            )
            self.problem(answer, 400)


class Told(TargetTest):
    def test_what_is_missing_counts_them_and_names_what_cannot_be_told(self) -> None:
        self.type_in("average_fps", "75 76 74")
        self.type_in("average_fps", "55 55 55", 1)
        found = Browser("reader").json(f"{self.review_path}/completeness")
        self.assertEqual(found["targets"], {"average only": 1, "missed": 1})

    def test_the_table_of_comparisons_has_them(self) -> None:
        self.type_in("average_fps", "50")
        text = b"".join(Browser("reader").get(f"{self.review_path}/comparisons.csv")).decode()
        rows = [row for row in csv.DictReader(io.StringIO(text)) if row["metric"] == "average_fps"]
        self.assertEqual(
            [row["target"] for row in rows][:2], ["60 fps: missed, on one pass", "60 fps: cannot tell, no figure"]
        )


class Single(TargetTest):
    """A review of one configuration."""

    def setUp(self) -> None:
        super().setUp()
        self.scene.columns[1].delete()

    def codes(self) -> set[tuple[str, str]]:
        points = Browser("reader").json(f"{self.review_path}/plan")["points"]
        return {(point["code"], point["severity"]) for point in points}

    def test_it_is_a_proper_kind_that_nothing_stops(self) -> None:
        self.assertIn(("columns", "stops"), self.codes())
        self.brief(single=True)
        self.assertEqual([code for code, severity in self.codes() if severity == "stops"], [])

    def test_without_a_target_it_is_told_that_nothing_judges_it(self) -> None:
        self.brief(single=True, target_fps=None)
        self.assertIn(("target", "warns"), self.codes())
        Test.objects.filter(pk=self.scene.tests[0].pk).update(targets={"average_fps": 60})
        self.assertNotIn(("target", "warns"), self.codes())


class RanAnyway(TargetTest):
    """A requirement that is not met, and what came of it."""

    def setUp(self) -> None:
        super().setUp()
        need = {"aspect": "graphics_memory_gb", "label": "graphics memory", "least": 2, "unit": "GB"}
        Workload.objects.filter(pk=self.scene.scene.pk).update(requirements=[need])
        for configuration, reserve in zip(self.scene.configurations, (4, 1), strict=True):
            configuration.settings = {**configuration.settings, "graphics_memory_gb": reserve}
            configuration.save()

    def entries(self, column: int) -> list[str]:
        flags = Browser("reader").json(f"{self.review_path}/matrix")["flags"]
        cells = next((row["cells"] for row in flags if row["test"] == self.scene.tests[0].pk), {})
        own = cells.get(str(self.scene.columns[column].pk), [])
        return [flag["words"] for flag in own if flag["code"] == "ran_anyway"]

    def test_what_ran_all_the_same_is_one_entry_with_what_came_of_it(self) -> None:
        self.type_in("average_fps", "31 31 31", 1)
        self.assertEqual(self.entries(1), ["asks for 2 GB of graphics memory, it has 1: ran at 31.0 fps"])

    def test_what_failed_is_told_with_it(self) -> None:
        self.type_in("average_fps", "n c 30", 1)
        self.assertEqual(
            self.entries(1), ["asks for 2 GB of graphics memory, it has 1: did not start, crashed and ran at 30.0 fps"]
        )

    def test_what_was_not_tried_and_what_has_enough_say_nothing(self) -> None:
        self.type_in("average_fps", "60")
        self.assertEqual((self.entries(0), self.entries(1)), ([], []))
