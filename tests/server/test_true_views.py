"""What the matrix says of figures that are easily told wrong: lower is better, differences, held runs, other blocks."""

import csv
import io
import json
import uuid
from typing import Any

import numpy as np

from nomothet.server.analysis.tasks import recompute_test
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser, steady
from tests.server.test_typed import TypedTest

EXACT = {"method": "meter", "half_width": 0}


class MetricTest(TypedTest):
    """A suite whose one metric is typed on both configurations."""

    def metric(self, unit: str, direction: str, scale: str = "ratio", **review: object) -> None:
        workload = self.scene.suite
        workload.metrics = [
            {"key": "one_thread", "label": "value", "unit": unit, "direction": direction, "scale": scale}
        ]
        workload.save()
        Review.objects.filter(pk=self.scene.review.pk).update(**review)

    def compared(self, first: str, second: str, **reading: object) -> dict[str, Any]:
        """The cell of the second configuration, after both were typed in."""
        cells = [self.cell(text, "one_thread", 1, column, **{**EXACT, **reading})
                 for column, text in enumerate((first, second))]  # fmt: skip
        answer = self.store(*cells)
        self.assertEqual(answer.status_code, 201, answer.content)
        rows = Browser("reader").json(f"{self.review_path}/matrix")["rows"]
        row = next(one for one in rows if one["metric"] == "one_thread")
        return dict(row["cells"][str(self.scene.columns[1].pk)])


class Directions(MetricTest):
    def test_the_percentage_is_the_plain_change_and_the_word_says_whether_it_is_good(self) -> None:
        # 45 W against 65 W is 30.8 % less, and ahead.
        self.metric("W", "lower")
        found = self.compared("65 65.1 64.9", "45 45.1 44.9")["comparison"]
        self.assertAlmostEqual(found["change"], -30.77, places=1)
        self.assertEqual((found["verdict"], found["told"]), ("ahead", "−30.8 %"))
        self.assertGreater(found["better"], 0)
        self.assertLess(found["low"], found["high"])

    def test_of_times_the_speed_stands_beside_it(self) -> None:
        self.metric("s", "lower")
        found = self.compared("100 100.1 99.9", "75 75.1 74.9")["comparison"]
        self.assertEqual((found["told"], found["speed"]), ("−25.0 %", "1.33 × as fast"))

    def test_a_ratio_of_two_or_more_is_told_as_one(self) -> None:
        self.metric("points", "higher")
        self.assertEqual(self.compared("100 101 99", "1300 1310 1290")["comparison"]["told"], "13.0 ×")

    def test_a_metric_of_neither_direction_is_never_ahead_or_behind(self) -> None:
        self.metric("MHz", "neither")
        found = self.compared("4000 4001 3999", "3000 3001 2999")
        self.assertAlmostEqual(found["comparison"]["change"], -25.0, places=1)
        self.assertNotRegex(found["comparison"]["verdict"], "ahead|behind|level")


class Margins(MetricTest):
    def test_temperatures_have_a_margin_of_their_own(self) -> None:
        # 1.0 °C apart, with noise of about 0.1: within 2 °C it is level.
        self.metric("°C", "lower", "difference")
        self.assertEqual(self.compared("70 70.1 69.9", "71 71.1 70.9")["comparison"]["verdict"], "level")

    def test_the_reviews_own_margin_goes_before_the_usual_one(self) -> None:
        self.metric("°C", "lower", "difference", margins={"temperature": 0.5})
        self.assertEqual(self.compared("70 70.1 69.9", "71 71.1 70.9")["comparison"]["verdict"], "behind")

    def test_margins_are_set_in_the_brief_and_checked(self) -> None:
        editor = Browser("editor")

        def patch(margins: object, version: int = 1) -> Any:
            return editor.send("patch", self.review_path, {"margins": margins}, **{"If-Match": f'"v{version}"'})

        for wrong in ({"warmth": 1}, {"temperature": 0}, {"temperature": -1}, {"temperature": "two"}):
            with self.subTest(wrong=wrong):
                self.assertIn(patch(wrong).status_code, (400, 422))
        answer = patch({"temperature": 1.5})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["margins"]["temperature"], 1.5)


class Resolution(MetricTest):
    def test_identical_readings_have_an_interval_of_the_width_of_their_last_digit(self) -> None:
        self.metric("dB(A)", "lower", "difference")
        found = self.compared("34.3 34.3 34.3", "30.1 30.1 30.1")["comparison"]
        # Steps of 0.1 alone: a standard deviation of 0.1 / √12 in each of the two cells.
        self.assertGreater(found["high"] - found["low"], 0.02)
        self.assertLess(found["high"] - found["low"], 0.6)


class Held(TypedTest):
    def fill_held(self, column: int, rate: float) -> None:
        self.scene.owe(column=column, count=3)
        for seed in range(3):
            generator = np.random.default_rng(100 * column + seed)
            self.bench.deliver(1000 / rate + generator.normal(0, 0.02, 3600))

    def cells(self) -> dict[str, Any]:
        rows = Browser("reader").json(f"{self.review_path}/matrix")["rows"]
        return dict(next(one for one in rows if one["metric"] == "average_fps")["cells"])

    def test_two_cells_held_at_one_rate_show_nothing(self) -> None:
        for column in (0, 1):
            self.fill_held(column, 60.0)
        cell = self.cells()[str(self.scene.columns[1].pk)]
        self.assertEqual(cell["why_not_code"], "held_at")
        self.assertIn("held at 60", cell["why_not"])
        self.assertIsNone(cell["comparison"])

    def test_a_run_held_at_its_target_has_met_it(self) -> None:
        self.fill_held(0, 60.0)
        targets = self.row()["targets"][str(self.scene.columns[0].pk)]
        self.assertEqual([one["code"] for one in targets], ["met"])

    def test_one_that_is_not_held_is_compared(self) -> None:
        self.fill_held(0, 60.0)
        self.fill(1, [48.0, 48.3, 47.8])
        self.assertEqual(self.cells()[str(self.scene.columns[1].pk)]["comparison"]["verdict"], "behind")


class Blocks(TypedTest):
    """A pass that was run as another test is not averaged until somebody decides."""

    def setUp(self) -> None:
        super().setUp()
        self.fill(0, [60.0, 60.2])
        self.scene.owe()
        other = {"workload": {"workload": "reef-walk", "version": "2.2"}}
        self.bench.deliver(steady(30, 2400), environment=other)

    def state(self) -> tuple[int, list[dict[str, Any]]]:
        column = str(self.scene.columns[0].pk)
        found = Browser("reader").json(f"{self.review_path}/matrix")
        n = next(one for one in found["rows"] if one["metric"] == "average_fps")["cells"][column]["n"]
        flags = next((row["cells"].get(column, []) for row in found["flags"] if row["test"] == self.test_id), [])
        return n, [one for one in flags if one["severity"] == "blocks"]

    @property
    def test_id(self) -> int:
        return int(self.scene.tests[0].pk)

    def test_it_is_left_out_told_and_counts_once_somebody_has_decided(self) -> None:
        n, (flag,) = self.state()
        self.assertEqual((n, flag["passes"]), (2, [3]))
        self.assertIn("version 2.2 instead of 2.3", flag["words"])
        missing = Browser("reader").json(f"{self.review_path}/completeness")["flags"]
        self.assertIn(flag["key"], [one["key"] for one in missing])
        answer = self.tester.send("put", f"{self.cell_path()}/looks", {"flag": flag["key"], "words": "the same scene"})
        self.assertEqual(answer.status_code, 204, answer.content)
        self.assertEqual(self.state()[0], 3)


class Records(TypedTest):
    def publish(self, review: Review | None = None) -> str:
        path = f"/api/reviews/{(review or self.scene.review).pk}/records"
        answer = Browser("editor").send("post", path, {})
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["slug"])

    def fill_other(self, question: str, key: str) -> Review:
        review = self.scene.new_review(key, question)
        cell = {"test": review.tests.all()[0].pk, "column": review.columns.all()[0].pk, "metric": "average_fps"}
        path = f"/api/reviews/{review.pk}/typed/{uuid.uuid4()}"
        answer = self.tester.send("put", path, {"cells": [{**cell, "text": "60 61", **EXACT}]})
        self.assertEqual(answer.status_code, 201, answer.content)
        return review

    def test_questions_that_begin_alike_or_are_in_another_script_have_addresses_of_their_own(self) -> None:
        begin = "How little power can the dome PCs draw before a visitor notices anything at all, "
        questions = [begin + "in summer?", begin + "in winter?", "電力はどれだけ必要か", "何が違うのか"]
        slugs = [self.publish(self.fill_other(question, f"q{at}")) for at, question in enumerate(questions)]
        self.assertEqual(len(set(slugs)), 4)
        self.assertTrue(all(slugs))
        for slug in slugs:
            self.assertEqual(Browser().get(f"/api/records/{slug}").status_code, 200)

    def test_an_address_is_made_of_whole_words(self) -> None:
        question = "How little power can the dome PCs draw before visitors notice it?"
        slug = self.publish(self.fill_other(question, "words"))
        self.assertEqual(slug, "how-little-power-can-the-dome-pcs-draw-before-visitors-1")
        long = self.publish(self.fill_other("n" * 90, "long"))
        self.assertEqual(long, "n" * 60 + "-1")

    def test_the_traces_of_an_edition_stay_as_they_were(self) -> None:
        (pass_id, *_) = self.fill(0, [60.0, 60.2])
        slug = self.publish()
        path = f"/api/records/{slug}/traces/{pass_id}"
        before = Browser().get(path).content
        Test.objects.filter(pk=self.scene.tests[0].pk).update(skip_s=10.0, end_cut_s=5.0)
        recompute_test.func(self.scene.tests[0].pk)
        self.assertEqual(Browser().get(path).content, before)
        # In the review itself the cuts have moved.
        self.assertNotEqual(Browser("reader").json(f"/api/passes/{pass_id}/trace"), json.loads(before))

    def test_what_is_missing_apart_or_flagged_stands_in_the_record_too(self) -> None:
        self.store(self.cell("60 61 ~45", **EXACT))
        self.scene.owe(column=1)
        self.bench.deliver(outcome="did_not_start", note="no display")
        content = Record.objects.get(slug=self.publish()).content
        row = next(one for one in content["matrix"]["rows"] if one["metric"] == "average_fps")
        self.assertEqual([one["value"] for one in row["apart"][str(self.scene.columns[0].pk)]], [45.0])
        cell = next(one for one in content["matrix"]["progress"] if one["test"] == self.scene.tests[0].pk)
        self.assertIn("did not start", cell["cells"][str(self.scene.columns[1].pk)]["said"])
        self.assertTrue(content["configurations"])
        self.assertIn("Tester", content["measured_by"])


class Exports(TypedTest):
    def lines(self, path: str) -> list[dict[str, str]]:
        text = b"".join(Browser("reader").get(path)).decode()
        return list(csv.DictReader(io.StringIO(text)))

    def test_a_formula_in_a_text_is_harmless_in_every_export(self) -> None:
        Test.objects.filter(pk=self.scene.tests[0].pk).update(detail="=1+1")
        self.store(self.cell("60 61", **EXACT))
        for name in ("figures", "comparisons"):
            with self.subTest(name=name):
                found = {line["detail"] for line in self.lines(f"{self.review_path}/{name}.csv")}
                self.assertIn("'=1+1", found)
                self.assertNotIn("=1+1", found)

    def test_editions_settings_method_and_who_stand_in_each_line(self) -> None:
        Test.objects.filter(pk=self.scene.tests[0].pk).update(settings={"resolution": "4K"})
        self.store(self.cell("60 61", method="stopwatch", half_width=0.5))
        line = self.lines(f"{self.review_path}/figures.csv")[0]
        self.assertEqual(
            (line["version"], line["settings"], line["method"], line["half_width"], line["by"]),
            ("2.3", "resolution=4K", "stopwatch", "0.5", "Tester"),
        )


class Failures(TypedTest):
    def test_a_failed_pass_does_not_vanish_behind_owed_ones(self) -> None:
        self.scene.owe(count=3)
        self.bench.deliver(outcome="crashed", note="signal 11")
        found = Browser("reader").json(f"{self.review_path}/matrix")["progress"]
        cell = next(one for one in found if one["test"] == self.scene.tests[0].pk)["cells"][
            str(self.scene.columns[0].pk)
        ]
        self.assertEqual((cell["owed"], [pip["state"] for pip in cell["pips"]]), (2, ["failed"]))
        holes = Browser("reader").json(f"{self.review_path}/completeness")["holes"]
        reasons = {one["reason"] for one in holes
                   if (one["test"], one["column"]) == (self.scene.tests[0].pk, self.scene.columns[0].pk)}  # fmt: skip
        self.assertEqual(reasons, {"owed", "failed"})
