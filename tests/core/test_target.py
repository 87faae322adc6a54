"""Targets (section 19): every edge of its rules."""

import math
import unittest

from scipy import stats

from nomothet.core.target import target_limit, target_rate


class Rates(unittest.TestCase):
    def test_the_worked_example(self) -> None:
        self.assertEqual(target_rate(60, [75, 76, 74], [59, 62, 64]).result, "average only")

    def test_the_rules_one_by_one(self) -> None:
        steady = [75.0, 76.0, 74.0]
        cases: list[tuple[str, list[float], list[float] | None, bool, float | None, str]] = [
            ("both reached", steady, [62.0, 62.1, 61.9], False, None, "met"),
            ("the low's interval dips under", steady, [59.0, 62.0, 64.0], False, None, "average only"),
            ("the average's interval dips under", [58.0, 66.0, 70.0], [62.0, 62.1, 61.9], False, None, "average only"),
            ("the centre is under", [59.0, 59.1], [58.0, 58.1], False, None, "missed"),
            ("a thin low cannot be met", steady, [62.0, 62.1, 61.9], True, None, "average only"),
            ("a missing low cannot be met", steady, [], False, None, "average only"),
            ("a test without lows", steady, None, False, None, "met"),
            ("a test without lows, under", [58.0, 66.0, 70.0], None, False, None, "missed"),
            ("one pass is judged by its value", [60.0], [60.0], False, None, "met"),
            ("held at its own target", [59.9, 59.9], [59.8, 59.8], False, 60.0, "met"),
            ("held, and 0.995 of it is not reached", [59.9, 59.9], [59.6, 59.6], False, 60.0, "average only"),
            ("held elsewhere", [59.9, 59.9], [59.8, 59.8], False, 50.0, "missed"),
            ("a cap within 1 %", [59.8, 59.8], [59.8, 59.8], False, 59.5, "met"),
        ]
        for why, averages, lows, thin, held_at, expected in cases:
            with self.subTest(why):
                self.assertEqual(target_rate(60, averages, lows, thin=thin, held_at=held_at).result, expected)

    def test_the_end_of_the_interval_is_students(self) -> None:
        values = [70.0, 72.0, 71.0]
        logs = [math.log(one) for one in values]
        low = stats.t.interval(0.95, 2, sum(logs) / 3, stats.sem(logs))[0]
        self.assertAlmostEqual(target_rate(60, values, None).average.end, math.exp(low))
        self.assertTrue(target_rate(60, values, None).by_average_alone)


class Limits(unittest.TestCase):
    def test_the_upper_end_is_judged(self) -> None:
        self.assertEqual(target_limit(85, [84.0, 84.2, 84.1], "difference").result, "met")
        self.assertEqual(target_limit(85, [80.0, 84.9, 84.0], "difference").result, "missed")
        self.assertEqual(target_limit(85, [85.0], "difference").result, "met")
        self.assertEqual(target_limit(10, [10.001], "ratio").result, "missed")
