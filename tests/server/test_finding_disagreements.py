"""What findings say where measures disagree, where something changed over time, and where nothing is shown."""

from nomothet.server.analysis.models import Analysis, Pair
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Test
from tests.server.finding_scene import KindsTest


class LowsAndPacing(KindsTest):
    def setUp(self) -> None:
        super().setUp()
        Test.objects.filter(pk=self.walk.pk).update(shown=["average_fps", "low_1pct"])

    def build(self, low: float) -> None:
        for column, centre, own in ((self.first, 100.0, 60.0), (self.second, 100.5, low)):
            self.passes(
                self.walk, column, average_fps=self.around(centre), low_1pct_slowest_mean=self.around(own),
                hitch_rate_per_min=[1.0, 2.0, 3.0],
            )  # fmt: skip

    def test_average_level_and_low_behind_disagree(self) -> None:
        self.build(40.0)
        (finding,) = self.said("lows")
        self.assertIn("average level (+0.5 %), 1 % low behind (−33.3 %): they disagree.", finding["sentence"])
        self.assertEqual(finding["lines"][0][3:5], ["0.600", "2.00"])

    def test_where_they_agree_the_hitches_are_told(self) -> None:
        self.build(60.2)
        (finding,) = self.said("lows")
        self.assertIn("nowhere disagree for certain; there are 2.00 hitches per minute", finding["sentence"])


class Pairs(KindsTest):
    def test_two_resolutions_are_told_with_their_pixels(self) -> None:
        tests = [self.row(self.scene.scene, ["average_fps"], resolution=one) for one in ("1080p", "4K")]
        for test, centre in zip(tests, (100.0, 40.0), strict=True):
            self.passes(test, self.first, average_fps=self.around(centre))
        (finding,) = self.said("pairs")
        self.assertIn("−60.0 %", finding["sentence"])
        self.assertIn("with 4 × the pixels", finding["sentence"])

    def test_other_settings_are_pairs_only_where_somebody_says_so(self) -> None:
        tests = [self.row(self.scene.scene, ["average_fps"], crowd=one) for one in ("few", "many")]
        for test, centre in zip(tests, (100.0, 90.0), strict=True):
            self.passes(test, self.first, average_fps=self.around(centre))
        self.assertEqual(self.said("pairs"), [])
        Pair.objects.create(
            review=self.review, kind="setting", test_a=tests[0], metric_a="average_fps", test_b=tests[1],
            metric_b="average_fps",
        )  # fmt: skip
        self.assertEqual(len(self.said("pairs")), 1)

    def test_two_instruments_that_rank_otherwise_say_so(self) -> None:
        other = self.row(self.scene.scene, ["average_fps"], meter="second")
        for column, a, b in ((self.first, 100.0, 80.0), (self.second, 90.0, 85.0)):
            self.passes(self.walk, column, average_fps=self.around(a))
            self.passes(other, column, average_fps=self.around(b))
        Pair.objects.create(
            review=self.review, kind="instrument", test_a=self.walk, metric_a="average_fps", test_b=other,
            metric_b="average_fps",
        )  # fmt: skip
        (finding,) = self.said("pairs")
        self.assertIn("put the configurations in another order", finding["sentence"])


class OverTime(KindsTest):
    def sessions(self, column: Column, *groups: list[float]) -> None:
        for values in groups:
            passes = self.passes(self.walk, column, average_fps=values)
            Pass.objects.filter(pk__in=[one.pk for one in passes]).update(session=passes[0].pk)

    def test_a_cell_that_changed_from_one_session_to_the_next_is_named(self) -> None:
        self.sessions(self.first, [100.0, 100.2], [90.0, 90.2])
        self.sessions(self.second, [80.0, 80.2], [80.1, 80.1])
        (finding,) = self.said("time")
        self.assertIn("Of 2 cells measured in several sessions, 1 changed", finding["sentence"])
        self.assertIn("−10.0 % in Reef Walk 2, average on 35 W, behind", finding["sentence"])
        self.assertEqual(len(finding["lines"]), 2)

    def test_one_session_is_none_of_its_kind(self) -> None:
        self.sessions(self.first, [100.0, 100.2])
        self.assertEqual(self.said("time"), [])

    def test_what_an_update_cost_is_told_for_its_cell(self) -> None:
        passes = self.passes(self.walk, self.first, average_fps=[100.0, 100.2, 95.0, 95.2])
        for at, owner in enumerate(passes):
            Analysis.objects.create(
                owner=owner, method_version=4, summary={}, fingerprint={"graphics_driver": "31.2" if at < 2 else "31.4"}
            )
        self.passes(self.walk, self.second, average_fps=[80.0, 80.1])
        (finding,) = self.said("time")
        self.assertIn("from graphics driver 31.2 to graphics driver 31.4 −5.0 %", finding["sentence"])
        self.assertEqual(finding["verdict"], "behind")


class Blind(KindsTest):
    def test_a_held_rate_shows_nothing_and_says_what_would(self) -> None:
        for column in (self.first, self.second):
            self.passes(self.walk, column, average_fps=[60.0, 60.01, 59.99], held_fps=[60.0, 60.0, 60.0])
        (finding,) = self.said("blind")
        self.assertIn("average shows nothing of 20 W: it and the baseline are held at 60 fps", finding["sentence"])
        self.assertEqual((finding["sure"], finding["acts"][0]["kind"]), ("open", "advice"))

    def test_holes_are_put_on_the_docket_by_one_act(self) -> None:
        self.passes(self.walk, self.first, average_fps=self.around(60.0))
        (finding,) = self.said("blind")
        self.assertIn("1 cell has no figures, in 1 test", finding["sentence"])
        (act,) = finding["acts"]
        self.assertEqual((act["kind"], act["passes"]), ("owe", self.review.passes_per_test))
        self.assertEqual(act["cells"], [{"test": self.walk.pk, "column": self.second.pk, "passes": 3}])

    def test_a_corner_that_the_grid_lacks_is_named(self) -> None:
        self.vary("power_limit_w", "fan_profile")
        self.column("35 W, loud", fan_profile=3)
        for column in self.review.columns.all():
            self.passes(self.walk, column, average_fps=self.around(60.0))
        missing = [one for one in self.said("blind") if one["key"] == "blind-missing"]
        self.assertEqual(len(missing), 1)
        self.assertIn("power limit w 20 W, fan profile 3", missing[0]["sentence"])
        self.assertEqual(missing[0]["acts"][0]["kind"], "brief")
