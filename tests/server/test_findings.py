"""What a review says: each kind where it fits, no further than its comparison, and in the order of its use."""

import math
import statistics
import uuid
from typing import Any

from nomothet.server.reviews.models import Caveat, Column, Review, Test
from nomothet.server.systems.models import Configuration
from tests.server.base import Browser, SceneTest

METER = {"method": "meter", "half_width": 0.0}


class FindingsTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.second = Test.objects.create(
            review=self.scene.review, position=4, workload=self.scene.scene, detail="open reef", shown=["average_fps"]
        )
        Test.objects.filter(pk=self.scene.tests[0].pk).update(shown=["average_fps"])
        Review.objects.update(target_fps=None)

    def type_in(self, test: int, column: int, text: str, metric: str = "average_fps") -> None:
        tests = [*self.scene.tests, self.second]
        cell = {"test": tests[test].pk, "column": self.scene.columns[column].pk, "metric": metric, "text": text}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        answer = Browser("tester").send("put", path, {"cells": [{**cell, **METER}]})
        self.assertEqual(answer.status_code, 201, answer.content)

    def said(self, kind: str = "") -> list[dict[str, Any]]:
        found = Browser("reader").json(f"{self.review_path}/findings")["findings"]
        return [one for one in found if not kind or one["kind"] == kind]

    def measure_both(self) -> None:
        self.type_in(0, 0, "100 101 99")
        self.type_in(0, 1, "80 81 79")
        self.type_in(2, 0, "50 50.5 49.5")
        self.type_in(2, 1, "45 45.5 44.5")


class OverAllTests(FindingsTest):
    def test_it_is_the_geometric_mean_of_the_ratios_with_each_test_beside_it(self) -> None:
        self.measure_both()
        (finding,) = self.said("overall")
        (band,) = finding["bands"]
        logs = [
            statistics.fmean(map(math.log, own)) - statistics.fmean(map(math.log, base))
            for own, base in (((80, 81, 79), (100, 101, 99)), ((45, 45.5, 44.5), (50, 50.5, 49.5)))
        ]
        self.assertAlmostEqual(band["better"], 100 * math.expm1(statistics.fmean(logs)), places=9)
        for dot, log in zip(band["dots"], logs, strict=True):
            self.assertAlmostEqual(dot["better"], 100 * math.expm1(log), places=9)
        self.assertEqual((band["verdict"], finding["sure"]), ("behind", "decided"))
        self.assertIn("Over 2 tests, the averages of 20 W come to 84.9 % of 35 W", finding["sentence"])

    def test_a_test_that_one_lacks_is_left_out_by_name_with_why(self) -> None:
        self.measure_both()
        self.type_in(1, 0, "900", "one_thread")
        (finding,) = self.said("overall")
        self.assertEqual(finding["left_out"], ["Loom: not measured everywhere"])
        self.assertEqual(len(finding["tests"]), 2)

    def test_a_single_test_is_none_of_its_kind(self) -> None:
        self.type_in(0, 0, "100 101")
        self.type_in(0, 1, "80 81")
        self.assertEqual(self.said("overall"), [])

    def test_a_metric_that_is_not_trusted_takes_no_part(self) -> None:
        self.measure_both()
        path = f"/api/workloads/{self.scene.scene.pk}/untrusted/average_fps"
        Browser("editor").send("put", path, {"reason": "its counter stands still"})
        self.assertEqual(self.said("overall"), [])

    def test_without_noise_the_ratio_stands_without_an_interval(self) -> None:
        for test, column, text in ((0, 0, "100"), (0, 1, "80"), (2, 0, "50"), (2, 1, "45")):
            self.type_in(test, column, text)
        (finding,) = self.said("overall")
        self.assertEqual((finding["bands"][0]["low"], finding["sure"]), (None, "undecided"))
        self.assertIn("the noise is unknown", finding["sentence"])


class SingleDifferences(FindingsTest):
    def test_the_largest_decided_one_is_told_and_undecided_ones_are_not(self) -> None:
        self.measure_both()
        (finding,) = self.said("versus")
        self.assertIn("most in Reef Walk 2, kelp tunnel", finding["sentence"])
        self.assertIn("behind", finding["sentence"])
        self.assertEqual([band["verdict"] for band in finding["bands"]], ["behind", "behind"])

    def test_nothing_decided_is_no_finding(self) -> None:
        self.type_in(0, 0, "100 120 90")
        self.type_in(0, 1, "101 118 93")
        self.assertEqual(self.said("versus"), [])


class Targets(FindingsTest):
    def test_who_meets_all_and_who_misses_how_many(self) -> None:
        Review.objects.update(target_fps=47)
        self.measure_both()
        (finding,) = self.said("targets")
        self.assertEqual(finding["sentence"], "35 W meets every target; 20 W misses 1 of 2.")
        self.assertEqual(finding["heads"][1:], ["35 W", "20 W"])

    def test_what_was_not_measured_cannot_be_told(self) -> None:
        Review.objects.update(target_fps=47)
        self.type_in(0, 0, "100 101")
        self.type_in(2, 0, "50 50")
        (finding,) = self.said("targets")
        self.assertIn("it cannot be told yet", finding["sentence"])
        self.assertEqual(finding["sure"], "undecided")


class NotSettled(FindingsTest):
    def test_what_is_undecided_comes_last_with_what_would_settle_it(self) -> None:
        self.measure_both()
        self.type_in(1, 0, "900 1000 950", "one_thread")
        self.type_in(1, 1, "920 1010 940", "one_thread")
        last = self.said()[-1]
        self.assertEqual((last["kind"], last["sure"]), ("open", "open"))
        self.assertIn("is not settled", last["sentence"])
        self.assertEqual(len(last["lines"]), 1)

    def test_a_review_without_passes_says_nothing(self) -> None:
        self.assertEqual(self.said(), [])


class Conditions(FindingsTest):
    def test_what_nobody_declared_and_what_is_accepted_stand_with_a_finding(self) -> None:
        self.measure_both()
        other = self.scene.columns[1].configuration
        other.settings = {**other.settings, "fan_profile": 3}
        other.save()
        editor = self.scene.people["editor"]
        Caveat.objects.create(review=self.scene.review, aspect="power_limit_w", words="by a meter", by=editor)
        (finding,) = self.said("overall")
        self.assertEqual(finding["sure"], "warns")
        self.assertEqual(finding["caveats"], ["fan profile differs, and is not what this review varies.", "by a meter"])

    def test_every_finding_names_its_cells_its_section_and_a_key_of_its_own(self) -> None:
        Review.objects.update(target_fps=47)
        self.measure_both()
        found = self.said()
        keys = [one["key"] for one in found]
        self.assertEqual(len(set(keys)), len(keys))
        for one in found:
            self.assertTrue(one["cells"], one["key"])
            self.assertTrue(one["section"])
            self.assertLessEqual(len(one["sentence"].split()), 30)


class Sweeps(FindingsTest):
    """Three power limits, of which the middle one is enough."""

    def setUp(self) -> None:
        super().setUp()
        third = Configuration.objects.create(
            system=self.scene.system, name="Wren at 28 W", settings={"power_limit_w": 28, "fan_profile": 2}
        )
        self.scene.columns.append(
            Column.objects.create(review=self.scene.review, position=2, configuration=third, label="28 W")
        )
        for column, text in ((0, "100 100.2 99.8"), (1, "80 80.2 79.8"), (2, "99 99.2 98.8")):
            self.type_in(0, column, text)

    def test_levels_stand_in_rising_order_and_the_lowest_that_is_enough_is_told(self) -> None:
        (finding,) = self.said("sweep")
        (curve,) = finding["curves"]["curves"]
        self.assertEqual([point["x"] for point in curve["points"]], [20, 28, 35])
        self.assertAlmostEqual(curve["points"][0]["y"], 80, places=3)
        self.assertEqual([(rule["across"], rule["at"]) for rule in finding["curves"]["rules"]], [("x", 28)])
        self.assertEqual(
            finding["sentence"],
            "In Reef Walk 2, kelp tunnel, average: 28 W is enough, within the margin of the best, 35 W; "
            "20 W may lose more than the margin.",
        )
        self.assertEqual([line[-1] for line in finding["lines"]][-1], "the best")
        self.assertIn("+3 %", finding["lines"][1][3])

    def test_two_factors_or_two_configurations_of_one_level_are_no_sweep(self) -> None:
        twin = self.scene.columns[2].configuration
        twin.settings = {**twin.settings, "power_limit_w": 20}
        twin.save()
        self.assertEqual(self.said("sweep"), [])
        twin.settings = {**twin.settings, "power_limit_w": 28}
        twin.save()
        more = {"key": "fan", "name": "fan", "aspects": ["fan_profile"], "levels": []}
        Review.objects.filter(pk=self.scene.review.pk).update(factors=[*self.scene.review.factors, more])
        self.assertEqual(self.said("sweep"), [])

    def test_two_levels_are_enough_and_one_is_not(self) -> None:
        self.scene.columns[2].passes.all().update(set_aside=True)
        (finding,) = self.said("sweep")
        self.assertIn("nothing below 35 W is enough", finding["sentence"])
        self.scene.columns[1].passes.all().update(set_aside=True)
        Test.objects.update(stamp=99)
        self.assertEqual(self.said("sweep"), [])


class Grids(FindingsTest):
    """Two power limits with two fans, in all four combinations."""

    def setUp(self) -> None:
        super().setUp()
        for watts in (35, 20):
            made = Configuration.objects.create(
                system=self.scene.system, name=f"{watts} W, loud", settings={"power_limit_w": watts, "fan_profile": 3}
            )
            at = len(self.scene.columns)
            self.scene.columns.append(
                Column.objects.create(review=self.scene.review, position=at, configuration=made, label=made.name)
            )
        fan = {"key": "fan", "name": "fan", "aspects": ["fan_profile"], "levels": []}
        Review.objects.filter(pk=self.scene.review.pk).update(factors=[*self.scene.review.factors, fan])
        # 35 W, 20 W, 35 W loud, 20 W loud: the fan brings 10 %, the limit costs 20 %, and both together 10 % more.
        for column, centre in enumerate((100.0, 80.0, 110.0, 79.2)):
            self.type_in(0, column, f"{centre} {centre * 1.002} {centre * 0.998}")

    def test_effects_and_interaction_are_ratios_to_the_baselines_levels(self) -> None:
        (finding,) = self.said("grid")
        told = {band["label"]: 1 + band["better"] / 100 for band in finding["bands"]}
        self.assertAlmostEqual(told["power limit"], math.sqrt(0.8 * 0.72), places=4)
        self.assertAlmostEqual(told["fan"], math.sqrt(1.1 * 0.99), places=4)
        self.assertAlmostEqual(told["power limit × fan"], 0.72 / 0.8, places=4)
        self.assertIn("power limit 20 W costs 10.0 % more with fan 3", finding["sentence"])
        self.assertEqual(finding["lines"][-1], ["20 W, loud", "20 W, 3", "", "79.2 fps"])
        self.assertEqual(finding["section"], "7")

    def test_a_corner_without_passes_leaves_no_grid(self) -> None:
        self.scene.columns[3].passes.all().update(set_aside=True)
        self.assertEqual(self.said("grid"), [])

    def test_a_corner_that_nobody_planned_leaves_no_grid(self) -> None:
        self.scene.columns[3].passes.all().delete()
        self.scene.columns[3].delete()
        self.assertEqual(self.said("grid"), [])
