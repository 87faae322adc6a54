"""Recorder overhead (13), comparability (16), enough (17), small figures (19), alignment and distribution."""

import math
import unittest

import numpy as np
from scipy import stats

from nomothet.core.alignment import best_match
from nomothet.core.comparable import comparability, merged, severity_of
from nomothet.core.distribution import histogram, percentile_curve
from nomothet.core.enough import Use, enough, use_of
from nomothet.core.errors import BadSample
from nomothet.core.overhead import recorder_overhead, without_recorder
from nomothet.core.passes import flags, rise_at_end


def rng() -> np.random.Generator:
    """A generator of its own for each use, so that no test hangs on which ran before."""
    return np.random.default_rng(21)


class Overhead(unittest.TestCase):
    def test_the_worked_example(self) -> None:
        factor = recorder_overhead({"walk": ([940.0], [868.0])}).tests["walk"]
        self.assertEqual((round(factor.k, 4), round(factor.change_pct, 2)), (0.9234, -7.66))
        self.assertIsNone(factor.low)

    def test_the_interval_is_that_of_a_paired_t_test(self) -> None:
        off, on = [100.0, 102.0, 99.0, 101.0], [98.0, 99.5, 97.5, 98.0]
        factor = recorder_overhead({"walk": (off, on)}).tests["walk"]
        d = np.log(on) - np.log(off)
        low, high = stats.t.interval(0.95, 3, d.mean(), stats.sem(d))
        assert factor.low is not None
        assert factor.high is not None
        self.assertAlmostEqual(math.log(factor.low), low)
        self.assertAlmostEqual(math.log(factor.high), high)

    def test_the_correction_is_the_geometric_mean_over_the_tests(self) -> None:
        off = [100.0, 103.0, 97.0]
        found = recorder_overhead({"a": (off, [96.0, 100.0, 92.0]), "b": ([50.0, 52.0, 51.0], [49.0, 50.0, 49.6])})
        means = [np.mean(np.log([96.0, 100.0, 92.0]) - np.log(off)), np.mean(np.log([49 / 50, 50 / 52, 49.6 / 51]))]
        self.assertAlmostEqual(math.log(found.k or 1), float(np.mean(means)))
        self.assertIsNone(found.refused)
        self.assertAlmostEqual(without_recorder(96.0, 0.96), 100.0)

    def test_one_correction_needs_three_pairs_of_every_test_and_one_direction(self) -> None:
        pairs = ([100.0, 103.0, 97.0], [96.0, 100.0, 92.0])
        few = recorder_overhead({"a": pairs, "b": ([50.0, 52.0], [49.0, 51.0])})
        assert few.refused is not None
        self.assertEqual((few.k, few.refused.code, few.refused.values["tests"]), (None, "too_few_pairs", ["b"]))
        mixed = recorder_overhead({"a": pairs, "b": pairs}, {"b": "lower"})
        assert mixed.refused is not None
        self.assertEqual((mixed.k, mixed.refused.code), (None, "directions_differ"))
        self.assertAlmostEqual(mixed.tests["b"].k, recorder_overhead({"b": pairs}).tests["b"].k)

    def test_tests_that_disagree_by_more_than_their_intervals_give_none(self) -> None:
        found = recorder_overhead(
            {"a": ([100.0, 100.1, 99.9], [99.0, 99.1, 98.9]), "b": ([50.0, 50.05, 49.95], [45.0, 45.1, 44.9])}
        )
        self.assertIsNone(found.k)
        assert found.refused is not None
        self.assertEqual((found.refused.code, found.refused.values["tests"]), ("factors_disagree", ["a", "b"]))

    def test_passes_without_a_partner_are_refused(self) -> None:
        for tests in ({}, {"walk": ([100.0], [])}, {"walk": ([100.0, 101.0], [99.0])}):
            with self.assertRaises(BadSample):
                recorder_overhead(tests)


class Comparable(unittest.TestCase):
    def test_what_blocks_warns_and_is_noted(self) -> None:
        weights = {
            "workload": "blocks", "version": "blocks", "setting:resolution": "blocks", "graphics driver": "warns",
            "firmware": "warns", "operating system": "warns", "memory_mts": "warns", "power_limit_w": "warns",
            "cooling": "warns", "capture": "warns", "core_voltage_v": "warns", "background programs": "notes",
        }  # fmt: skip
        for key, weight in weights.items():
            with self.subTest(key):
                self.assertEqual(severity_of(key), weight)

    def test_another_version_blocks_whatever_is_accepted(self) -> None:
        found = comparability({"version": "3"}, {"version": "4"}, accepted={"version": "we know"})
        self.assertEqual(found.verdict, "blocked")

    def test_the_factor_may_differ_and_a_caveat_travels_with_what_is_accepted(self) -> None:
        a = {"power_limit_w": 35, "firmware": "1.2", "operating system": "image 40"}
        b = {"power_limit_w": 20, "firmware": "1.3", "operating system": "image 40"}
        found = comparability(a, b, factors=["power_limit_w"], accepted={"firmware": "the fix of 1.3 is for displays"})
        self.assertEqual(found.verdict, "comparable")
        self.assertEqual([one.key for one in found.differences], ["firmware", "power_limit_w"])
        self.assertEqual(found.differences[0].accepted, "the fix of 1.3 is for displays")

    def test_air_may_differ_by_three_degrees(self) -> None:
        self.assertEqual(comparability({"ambient_c": 21.0}, {"ambient_c": 24.0}).verdict, "comparable")
        self.assertEqual(comparability({"ambient_c": 21.0}, {"ambient_c": 24.1}).verdict, "with a note")

    def test_what_only_one_side_knows_is_no_difference(self) -> None:
        self.assertEqual(comparability({"driver": "12"}, {}).differences, ())

    def test_several_values_of_one_cell_are_kept_side_by_side(self) -> None:
        together = merged([{"driver": "12"}, {"driver": "12"}, {"driver": "13"}])
        self.assertEqual(together, {"driver": ["12", "13"]})
        self.assertEqual(comparability({"driver": "12"}, together).verdict, "with a warning")


class Enough(unittest.TestCase):
    def test_the_highest_peak_with_the_reserve_against_the_sizes(self) -> None:
        tests = {"flight": use_of([1.0, 5.0, 6.5]), "walk": use_of([2.0, 3.0])}
        self.assertEqual(enough(tests, [4, 6, 8, 12]).size, 8)
        self.assertEqual(enough(tests, [4, 6, 8, 12], reserve=0.5).size, 12)
        self.assertIsNone(enough(tests, [4, 6]).size)

    def test_a_use_that_was_cut_off_is_at_least(self) -> None:
        self.assertTrue(enough({"flight": use_of([3.95], capacity=4.0)}, [8]).at_least)
        self.assertFalse(enough({"flight": use_of([3.5], capacity=4.0)}, [8]).at_least)

    def test_over_idle_and_gaps(self) -> None:
        self.assertEqual(use_of([np.nan, 5.0, 3.0], idle=2.0).added, 3.0)
        with self.assertRaises(BadSample):
            use_of([np.nan])
        with self.assertRaises(BadSample):
            enough({}, [8])
        with self.assertRaises(BadSample):
            enough({"walk": Use(1, 1, None, False)}, [8], reserve=-0.1)


class SmallFigures(unittest.TestCase):
    def test_a_run_that_ends_while_it_warms_up(self) -> None:
        t = np.arange(0, 600, 0.25)
        settled = 80 - 40 * np.exp(-t / 60) + rng().normal(0, 0.3, len(t))
        rising = 80 - 40 * np.exp(-t / 900)
        slow, fast = rise_at_end(t, settled), rise_at_end(t, rising)
        assert slow is not None
        assert fast is not None
        self.assertLess(abs(slow), 1)
        # The slope of the curve itself, in the middle of its last fifth.
        self.assertAlmostEqual(fast, 60 * 40 / 900 * math.exp(-540 / 900), delta=0.02)
        self.assertIsNone(rise_at_end([], []))


class OddPasses(unittest.TestCase):
    def test_the_noise_of_the_whole_test_decides(self) -> None:
        values = [100.0, 100.4, 99.9, 100.2, 98.9]
        self.assertEqual(flags(values).odd, (4,))
        noisy = [[50.0, 51.0, 49.0, 50.5, 49.5]]
        self.assertEqual(flags(values, others=noisy).odd, ())
        quiet = [[50.0, 50.01, 49.99, 50.0, 50.02]]
        self.assertEqual(flags(values, others=quiet).odd, (4,))

    def test_pure_noise_is_called_odd_in_under_one_pass_of_a_hundred(self) -> None:
        called, generator = 0, rng()
        for _ in range(400):
            test = [list(np.exp(generator.normal(4, 0.01, 5))) for _ in range(3)]
            called += sum(len(flags(own, others=[o for o in test if o is not own]).odd) for own in test)
        self.assertLess(called / (400 * 15), 0.01)


class Alignment(unittest.TestCase):
    def test_a_known_shift_is_found(self) -> None:
        t = np.arange(0, 90, 0.016)
        scene = 16 * (1 + 0.3 * np.sin(t / 4.1) + 0.2 * np.sin(t / 1.7 + 1))
        late = scene[np.searchsorted(np.cumsum(scene) / 1000, 5.0) :]
        own = rng()
        found = best_match(scene * own.normal(1, 0.03, len(scene)), late * own.normal(1, 0.03, len(late)))
        self.assertAlmostEqual(found.shift_s, 5.0, delta=0.5)
        self.assertGreater(found.correlation, 0.9)

    def test_a_trace_matches_itself_where_it_is(self) -> None:
        frames = rng().gamma(20, 1.0, 4000)
        self.assertEqual(best_match(frames, frames).shift_s, 0.0)
        self.assertEqual(best_match(np.array([5000.0]), np.array([5000.0])).shift_s, 0.0)


class Distribution(unittest.TestCase):
    def test_the_curve_is_made_of_type_7_percentiles(self) -> None:
        frames = rng().gamma(20, 0.5, 5000)
        curve = percentile_curve(frames)
        at = curve.share_slower.index(min(curve.share_slower, key=lambda share: abs(share - 0.01)))
        self.assertAlmostEqual(curve.share_slower[at], 0.01)
        self.assertAlmostEqual(curve.frame_ms[at], float(np.percentile(frames, 99)))
        self.assertEqual(curve.frame_ms[0], frames.min())

    def test_every_frame_is_in_a_bin(self) -> None:
        frames = np.concatenate([rng().gamma(20, 0.5, 500), [400.0, 900.0]])
        self.assertEqual(sum(histogram(frames).counts), 502)
        self.assertEqual(histogram(frames, top_ms=50.0).counts[-1], 2)
