"""Uneven noise (section 3): when it is seen, what it does to comparisons, and what pooling alone would have done."""

import math
import unittest

import numpy as np
from scipy import stats

from nomothet.core.compare import compare_with_baseline
from nomothet.core.noise import has_uneven_noise, own_noise, own_passes_needed, pooled_noise, reading_error

STEADY = {"A": [100.0, 100.4, 99.6, 100.2], "B": [103.0, 103.4, 102.7, 103.1], "C": [98.0, 98.3, 97.6, 98.1]}
WILD = [110.0, 131.0, 92.0, 117.0]


class UnevenNoise(unittest.TestCase):
    def test_the_f_test_decides_at_a_share_of_one_percent(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(60):
            cells = [rng.normal(0, 0.01, 4).tolist() for _ in range(3)]
            own = rng.normal(0, 0.01 * rng.uniform(1, 12), 4).tolist()
            ratio = np.var(own, ddof=1) / np.mean([np.var(cell, ddof=1) for cell in cells])
            seen = stats.f.sf(ratio, 3, 9) < 0.01 / 4
            if not any(
                stats.f.sf(np.var(c, ddof=1) / np.mean([np.var(o, ddof=1) for o in [*cells, own] if o is not c]), 3, 9)
                < 0.01 / 4
                for c in cells
            ):
                self.assertEqual(has_uneven_noise([*cells, own]), seen)

    def test_what_has_no_rest_to_be_held_against_is_even(self) -> None:
        self.assertFalse(has_uneven_noise([[0.0, 5.0, -5.0]]))
        self.assertFalse(has_uneven_noise([[0.0, 5.0], [1.0]]))
        self.assertFalse(has_uneven_noise([[2.0, 2.0], [2.0, 2.0]]))

    def test_any_spread_among_cells_without_one_is_uneven(self) -> None:
        self.assertTrue(has_uneven_noise([[math.log(60)] * 3, [math.log(60)] * 3, [4.0, 4.1, 4.2]]))

    def test_a_comparison_then_is_that_of_welch(self) -> None:
        cells = {**STEADY, "D": WILD}
        for name in ("B", "D"):
            found = compare_with_baseline(cells, "A")[name]
            level = 1 - (1 - 0.05) ** (1 / 3)
            expected = stats.ttest_ind(np.log(cells[name]), np.log(cells["A"]), equal_var=False)
            interval = expected.confidence_interval(1 - level)
            assert found.low is not None
            assert found.high is not None
            self.assertAlmostEqual(found.noise.df, float(expected.df))
            self.assertAlmostEqual(math.log(found.low), interval.low)
            self.assertAlmostEqual(math.log(found.high), interval.high)

    def test_a_single_pass_stays_with_pooled_noise(self) -> None:
        found = compare_with_baseline({**STEADY, "D": WILD, "E": [101.0]}, "A")["E"]
        self.assertEqual((found.noise.source, found.noise.df), ("pooled", 12))

    def test_two_cells_without_spread_stay_with_pooled_noise(self) -> None:
        self.assertIsNone(own_noise([1.0, 1.0], [2.0, 2.0]))
        self.assertIsNone(own_noise([1.0], [2.0, 3.0]))

    def test_other_cells_of_the_test_take_part_in_the_noise_only(self) -> None:
        found = compare_with_baseline({"A": STEADY["A"], "B": STEADY["B"]}, "A", others=[STEADY["C"]])["B"]
        self.assertEqual(found.noise.df, 9)
        self.assertAlmostEqual(found.noise.sd, pooled_noise(STEADY.values()).sd)
        self.assertAlmostEqual(found.level, 0.05)

    def test_passes_needed_by_own_variances_is_the_first_that_is_narrow_enough(self) -> None:
        a, b = [0.0, 0.02, -0.02], [0.01, 0.012, 0.008]
        margin = math.log1p(0.05)
        needed = own_passes_needed(a, b, 0.05, margin)
        assert needed is not None
        var_a, var_b = np.var(a, ddof=1), np.var(b, ddof=1)

        def half(n: int) -> float:
            df = (var_a + var_b) ** 2 / (var_a**2 + var_b**2) * (n - 1)
            return float(stats.t.ppf(0.975, df) * math.sqrt((var_a + var_b) / n))

        self.assertLessEqual(half(needed), 0.6 * margin)
        self.assertGreater(half(needed - 1), 0.6 * margin)
        self.assertIsNone(own_passes_needed([0.0, 9.0], [0.0, 9.0], 0.05, margin))

    def test_a_noisy_cell_is_covered_better_than_by_pooling(self) -> None:
        rng = np.random.default_rng(12)
        inside = pooled_inside = 0
        runs = 500
        for _ in range(runs):
            cells = {name: np.exp(rng.normal(0, 0.01, 10)).tolist() for name in "ABC"}
            cells["D"] = np.exp(rng.normal(0, 0.03, 10)).tolist()
            found = compare_with_baseline(cells, "A")["D"]
            inside += (found.low or 9) <= 1 <= (found.high or 0)
            noise = pooled_noise(cells.values())
            half = stats.t.ppf(1 - found.level / 2, noise.df) * noise.sd * math.sqrt(2 / 10)
            pooled_inside += abs(np.mean(np.log(cells["D"])) - np.mean(np.log(cells["A"]))) <= half
        # Wanted: 98.3 %. Counts of 500 seeded draws, so that the bounds are not a matter of luck.
        self.assertGreater(inside / runs, 0.965)
        self.assertLess(pooled_inside / runs, 0.95)


class Readings(unittest.TestCase):
    def test_identical_readings_keep_a_width(self) -> None:
        step = 1 / math.sqrt(12)
        spreads = {name: reading_error([50.0] * 3, [step] * 3, "difference") for name in ("A", "B")}
        found = compare_with_baseline(
            {"A": [50.0] * 3, "B": [50.0] * 3}, "A", scale="difference", margin=2.0, spreads=spreads
        )["B"]
        half = stats.t.ppf(0.975, 4) * math.sqrt(2) * step / math.sqrt(3)
        self.assertAlmostEqual(found.high or 0, half)
