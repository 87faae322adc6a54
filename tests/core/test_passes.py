"""Section 2 of the method: centres, intervals, flags and pooled lows."""

import math
import unittest

import numpy as np
from scipy import stats

from nomothet.core.errors import BadSample
from nomothet.core.passes import flags, summary
from nomothet.core.pooled_low import pooled_low
from tests.core import naive


class Centres(unittest.TestCase):
    def test_ratio_scale_takes_the_geometric_mean(self) -> None:
        values = [90.0, 100.0, 113.0]
        self.assertAlmostEqual(summary(values).centre, math.prod(values) ** (1 / 3))

    def test_difference_scale_takes_the_arithmetic_mean(self) -> None:
        self.assertAlmostEqual(summary([70.0, 74.0], "difference").centre, 72.0)

    def test_the_interval_is_students_on_the_scale(self) -> None:
        values = [94.1, 93.8, 94.4, 95.0]
        logs = np.log(values)
        low, high = stats.t.interval(0.95, 3, logs.mean(), stats.sem(logs))
        found = summary(values)
        self.assertAlmostEqual(found.low or 0, math.exp(low))
        self.assertAlmostEqual(found.high or 0, math.exp(high))

    def test_one_pass_has_an_unknown_spread_and_not_none_at_all(self) -> None:
        found = summary([94.1])
        self.assertEqual((found.n, found.spread, found.low, found.high), (1, None, None, None))

    def test_a_ratio_cannot_be_taken_of_zero(self) -> None:
        with self.assertRaisesRegex(BadSample, "value 2 is 0"):
            summary([1.0, 0.0])


class OddPasses(unittest.TestCase):
    def test_modified_z_score_by_hand(self) -> None:
        # Logs are nearly linear here: median 100, absolute deviations 0, 1, 1, 2, 12: MAD 1, score 0.6745 · 12 = 8.1.
        self.assertEqual(flags([100.0, 101.0, 99.0, 102.0, 88.0], "difference").odd, (4,))

    def test_three_and_a_half_is_the_bound(self) -> None:
        self.assertEqual(flags([100.0, 101.0, 99.0, 102.0, 105.1], "difference").odd, ())
        self.assertEqual(flags([100.0, 101.0, 99.0, 102.0, 94.7], "difference").odd, (4,))

    def test_under_four_passes_the_borrowed_noise_decides(self) -> None:
        self.assertEqual(flags([100.0, 100.5, 90.0]).odd, ())
        self.assertEqual(flags([100.0, 100.5, 90.0], borrowed_sd=0.01).odd, (2,))

    def test_a_pass_beside_identical_ones_is_odd(self) -> None:
        self.assertEqual(flags([60.0, 60.0, 60.0, 60.0, 59.0]).odd, (4,))

    def test_identical_passes_are_not(self) -> None:
        found = flags([60.0] * 5)
        self.assertEqual((found.odd, found.drift, found.cold_first), ((), None, False))

    def test_a_cold_first_pass_is_named(self) -> None:
        self.assertTrue(flags([80.0, 100.0, 101.0, 99.5, 100.5]).cold_first)
        self.assertFalse(flags([80.0, 100.0, 101.0, 99.5, 130.0]).cold_first)


class Drifts(unittest.TestCase):
    def test_slope_and_probability_are_those_of_the_regression(self) -> None:
        values = [100.0, 98.9, 98.2, 97.1, 95.8]
        fit = stats.linregress(range(5), np.log(values))
        drift = flags(values).drift
        assert drift is not None
        self.assertAlmostEqual(drift.per_pass, 100 * math.expm1(fit.slope))
        self.assertAlmostEqual(drift.p_value, fit.pvalue)

    def test_a_slope_within_the_noise_is_no_drift(self) -> None:
        values = [100.0, 101.0, 99.0, 100.5, 99.4]
        self.assertGreater(stats.linregress(range(5), np.log(values)).pvalue, 0.05)
        self.assertIsNone(flags(values).drift)

    def test_a_perfect_line_drifts(self) -> None:
        drift = flags([10.0, 11.0, 12.0, 13.0], "difference").drift
        assert drift is not None
        self.assertAlmostEqual(drift.per_pass, 1.0)


class PooledLows(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.passes = [rng.gamma(30, 0.4, 700) for _ in range(4)]

    def test_each_definition_is_that_of_the_union(self) -> None:
        union = np.concatenate(self.passes).tolist()
        expected = {
            "slowest_mean": naive.slowest_mean(union, 0.01),
            "percentile": 1000 / naive.percentile(union, 0.99),
            "time_share": naive.time_share(union, 0.01),
        }
        for definition, value in expected.items():
            pooled = pooled_low(self.passes, 0.01, definition)  # type: ignore[arg-type]
            assert pooled is not None
            self.assertAlmostEqual(pooled.value, value, places=6, msg=definition)
            self.assertEqual((pooled.frames, pooled.passes), (2800, 4))

    def test_the_interval_is_the_jackknife_over_passes(self) -> None:
        by_hand = {
            "slowest_mean": lambda frames: naive.slowest_mean(frames, 0.01),
            "percentile": lambda frames: 1000 / naive.percentile(frames, 0.99),
            "time_share": lambda frames: naive.time_share(frames, 0.01),
        }
        for definition, low_of in by_hand.items():
            pooled = pooled_low(self.passes, 0.01, definition)  # type: ignore[arg-type]
            assert pooled is not None
            assert pooled.low is not None
            assert pooled.high is not None
            n = len(self.passes)
            whole = math.log(low_of(np.concatenate(self.passes).tolist()))
            pseudo = []
            for at in range(n):
                rest = np.concatenate([f for place, f in enumerate(self.passes) if place != at]).tolist()
                pseudo.append(n * whole - (n - 1) * math.log(low_of(rest)))
            half = stats.t.ppf(0.975, n - 1) * stats.sem(pseudo)
            self.assertAlmostEqual(math.log(pooled.low), whole - half, places=9, msg=definition)
            self.assertAlmostEqual(math.log(pooled.high), whole + half, places=9, msg=definition)

    def test_the_truth_is_inside_as_often_as_claimed(self) -> None:
        rng = np.random.default_rng(4)

        def one() -> np.ndarray:
            return 10 * np.exp(rng.normal(0, 0.02) + rng.normal(0, 0.1, 500))

        truth = naive.slowest_mean(np.concatenate([one() for _ in range(1500)]).tolist(), 0.01)
        inside = 0
        for _ in range(200):
            pooled = pooled_low([one() for _ in range(4)], 0.01, "slowest_mean")
            assert pooled is not None
            inside += (pooled.low or 0) <= truth <= (pooled.high or 0)
        self.assertGreater(inside / 200, 0.90)

    def test_two_passes_have_no_interval(self) -> None:
        pooled = pooled_low(self.passes[:2], 0.01, "slowest_mean")
        assert pooled is not None
        self.assertIsNone(pooled.low)

    def test_a_tail_that_is_thin_even_when_pooled_is_no_low(self) -> None:
        self.assertIsNone(pooled_low([[10.0] * 300, [10.0] * 300], 0.01, "slowest_mean"))
