"""Section 3 of the method: noise, intervals, verdicts and how many passes would settle it."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from nomothet.core.compare import compare_with_baseline, verdict_of
from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise, passes_needed, pooled_noise, sidak_level

VALUES = st.lists(st.floats(50, 200), min_size=2, max_size=6)


class WorkedExamples(unittest.TestCase):
    def test_a_clear_gain(self) -> None:
        result = compare_with_baseline({"A": [100, 102, 98], "B": [110, 111, 109]}, "A")["B"]
        assert result.low is not None
        assert result.high is not None
        self.assertAlmostEqual(100 * (result.effect - 1), 10.01, places=2)
        self.assertAlmostEqual(100 * (result.low - 1), 6.20, places=2)
        self.assertAlmostEqual(100 * (result.high - 1), 13.96, places=2)
        self.assertAlmostEqual(100 * result.noise.sd, 1.554, places=3)
        self.assertEqual((result.noise.df, result.verdict, result.passes_needed), (4, "ahead", None))

    def test_a_time_cut_is_not_a_speed_gain(self) -> None:
        cells = {"A": [640.0, 640.0], "B": [480.0, 480.0]}
        result = compare_with_baseline(cells, "A", direction="lower")["B"]
        self.assertAlmostEqual(result.change, 0.75)
        self.assertAlmostEqual(result.effect, 640 / 480)
        self.assertEqual(result.verdict, "ahead")


class Intervals(unittest.TestCase):
    @settings(max_examples=60)
    @given(VALUES, VALUES)
    def test_two_cells_agree_with_the_t_test(self, a: list[float], b: list[float]) -> None:
        result = compare_with_baseline({"A": a, "B": b}, "A")["B"]
        assert result.low is not None
        assert result.high is not None
        even = result.noise.source == "pooled"
        expected = stats.ttest_ind(np.log(b), np.log(a), equal_var=even).confidence_interval(0.95)
        if not math.isfinite(expected.low):
            return
        self.assertAlmostEqual(math.log(result.low), expected.low, places=7)
        self.assertAlmostEqual(math.log(result.high), expected.high, places=7)

    def test_several_comparisons_share_the_error(self) -> None:
        self.assertAlmostEqual(sidak_level(1), 0.05)
        self.assertAlmostEqual((1 - sidak_level(4)) ** 4, 0.95)
        cells = {"A": [100, 101], "B": [104, 105], "C": [99, 98], "D": [110, 111]}
        many = compare_with_baseline(cells, "A")["B"]
        self.assertAlmostEqual(many.level, sidak_level(3))

    def test_turning_the_direction_turns_the_ratio(self) -> None:
        cells = {"A": [10.0, 10.4, 10.2], "B": [11.0, 11.3, 11.2]}
        higher = compare_with_baseline(cells, "A", direction="higher")["B"]
        lower = compare_with_baseline(cells, "A", direction="lower")["B"]
        self.assertAlmostEqual(higher.effect, 1 / lower.effect)
        self.assertAlmostEqual(higher.low or 0, 1 / (lower.high or 1))

    def test_differences_are_in_the_metrics_unit(self) -> None:
        cells = {"A": [80.0, 81.0, 82.0], "B": [70.0, 71.0, 72.0]}
        result = compare_with_baseline(cells, "A", direction="lower", scale="difference", margin=2.0)["B"]
        self.assertAlmostEqual(result.effect, 10.0)
        self.assertAlmostEqual(result.change, -10.0)
        self.assertEqual(result.verdict, "ahead")

    def test_the_true_difference_lies_inside_as_often_as_claimed(self) -> None:
        rng = np.random.default_rng(8)
        inside = 0
        runs = 600
        for _ in range(runs):
            a = np.exp(rng.normal(0, 0.02, 4))
            b = np.exp(rng.normal(0.05, 0.02, 4))
            result = compare_with_baseline({"A": a, "B": b}, "A")["B"]
            inside += (result.low or 0) <= math.exp(0.05) <= (result.high or 0)
        self.assertGreater(inside / runs, 0.92)
        self.assertLess(inside / runs, 0.98)


class NoiseSources(unittest.TestCase):
    def test_cells_with_one_pass_take_part_but_bring_no_noise(self) -> None:
        noise = pooled_noise([[100.0], [110.0, 111.0], []])
        self.assertEqual(noise.df, 1)

    def test_single_passes_alone_have_no_verdict(self) -> None:
        result = compare_with_baseline({"A": [100.0], "B": [150.0]}, "A")["B"]
        self.assertEqual((result.verdict, result.low, result.high), ("noise unknown", None, None))
        self.assertAlmostEqual(result.effect, 1.5)

    def test_borrowed_noise_serves_where_there_is_none(self) -> None:
        borrowed = Noise(0.01, 20, "pooled")
        result = compare_with_baseline({"A": [100.0], "B": [110.0]}, "A", borrowed=borrowed)["B"]
        half = stats.t.ppf(0.975, 20) * 0.01 * math.sqrt(2)
        self.assertEqual(result.noise.source, "borrowed")
        self.assertAlmostEqual(math.log(result.low or 0), math.log(1.1) - half)

    def test_own_noise_goes_before_borrowed(self) -> None:
        borrowed = Noise(9.0, 20, "pooled")
        result = compare_with_baseline({"A": [100.0, 101.0], "B": [110.0]}, "A", borrowed=borrowed)["B"]
        self.assertEqual((result.noise.source, result.noise.df), ("pooled", 1))


class Verdicts(unittest.TestCase):
    def test_each_verdict_by_its_definition(self) -> None:
        margin = 0.03
        cases = [
            ((0.03, 0.09), "ahead"),
            ((0.001, 0.05), "slightly ahead"),
            ((0.001, 0.03), "level"),
            ((-0.03, 0.03), "level"),
            ((-0.05, -0.001), "slightly behind"),
            ((-0.02, -0.001), "level"),
            ((-0.09, -0.03), "behind"),
            ((-0.031, 0.01), "undecided"),
            ((-0.01, 0.031), "undecided"),
        ]
        for (low, high), verdict in cases:
            with self.subTest(low=low, high=high):
                self.assertEqual(verdict_of(low, high, margin), verdict)

    def test_passes_needed_is_the_first_that_is_narrow_enough(self) -> None:
        noise = Noise(0.04, 4, "pooled")
        level, margin, cells = sidak_level(1), math.log1p(0.03), 2
        needed = passes_needed(noise, cells, level, margin)
        assert needed is not None

        def half(n: int) -> float:
            return float(stats.t.ppf(1 - level / 2, cells * (n - 1))) * noise.sd * math.sqrt(2 / n)

        self.assertLessEqual(half(needed), 0.6 * margin)
        self.assertGreater(half(needed - 1), 0.6 * margin)

    def test_fifty_passes_are_the_most_that_is_proposed(self) -> None:
        self.assertIsNone(passes_needed(Noise(1.0, 4, "pooled"), 2, 0.05, 0.03))

    def test_only_the_undecided_ask_for_more(self) -> None:
        undecided = compare_with_baseline({"A": [100, 102.5, 97.5], "B": [101, 103, 98.5]}, "A")["B"]
        self.assertEqual(undecided.verdict, "undecided")
        self.assertGreater(undecided.passes_needed or 0, 3)


class BadInput(unittest.TestCase):
    def test_a_baseline_without_passes_is_named(self) -> None:
        with self.assertRaisesRegex(BadSample, "'A' has no pass"):
            compare_with_baseline({"A": [], "B": [1.0]}, "A")

    def test_a_bad_value_names_its_cell(self) -> None:
        with self.assertRaisesRegex(BadSample, "cell 'B': value 2"):
            compare_with_baseline({"A": [1.0], "B": [1.0, -2.0]}, "A")

    def test_a_margin_that_is_none_is_refused(self) -> None:
        for margin in (-0.1, 0.0, math.inf, math.nan):
            with self.subTest(margin=margin), self.assertRaisesRegex(BadSample, "margin"):
                compare_with_baseline({"A": [1.0]}, "A", margin=margin)


class FarApart(unittest.TestCase):
    def test_the_ends_of_an_interval_that_no_float_holds_are_the_bound(self) -> None:
        cells = {name: [1e-300, 1e300] for name in "ABCDEFGH"}
        for one in compare_with_baseline(cells, "A").values():
            self.assertEqual((one.low, one.high, one.verdict), (math.exp(-350), math.exp(350), "undecided"))
            self.assertAlmostEqual(one.effect, 1)


class PlainChange(unittest.TestCase):
    """What is shown is the change of the value; better or worse is told by the verdict."""

    def test_less_power_is_a_fall_that_is_ahead(self) -> None:
        cells = {"A": [65.0, 65.1, 64.9], "B": [45.0, 45.1, 44.9]}
        result = compare_with_baseline(cells, "A", direction="lower")["B"]
        self.assertAlmostEqual(100 * (result.change - 1), -30.8, places=1)
        self.assertEqual(result.verdict, "ahead")
        assert result.change_low is not None
        assert result.change_high is not None
        self.assertLess(result.change_low, result.change)
        self.assertLess(result.change, result.change_high)
        self.assertAlmostEqual(result.change_low, 1 / (result.high or 0))

    def test_of_neither_nothing_is_ahead(self) -> None:
        found = {
            (one.verdict, other.verdict)
            for one, other in zip(
                compare_with_baseline({"A": [100, 101], "B": [150, 151]}, "A", direction="neither").values(),
                compare_with_baseline({"A": [100, 101], "B": [50, 51]}, "A", direction="neither").values(),
                strict=True,
            )
        }
        self.assertEqual(found, {("differs", "differs")})
        near = compare_with_baseline({"A": [100, 100.1], "B": [100, 100.1]}, "A", direction="neither")["B"]
        self.assertEqual(near.verdict, "level")

    def test_without_a_margin_there_is_no_verdict_word(self) -> None:
        result = compare_with_baseline({"A": [1.0, 1.1], "B": [5.0, 5.1]}, "A", scale="difference", margin=None)["B"]
        self.assertEqual((result.verdict, result.passes_needed), ("no margin", None))
        self.assertIsNotNone(result.low)
