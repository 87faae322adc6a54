"""Burst against sustained, drops and their causes (section 11), on runs made by hand."""

import unittest
from collections.abc import Mapping

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.notes import note
from nomothet.core.per_second import Run
from nomothet.core.sustained import Limits, change_points, held_back, sustained
from nomothet.words import say

RNG = np.random.default_rng(12)


def steps(*parts: tuple[int, float], noise: float = 0.0) -> Floats:
    values = np.concatenate([np.full(count, level) for count, level in parts])
    return values * (1 + RNG.normal(0, noise, len(values))) if noise else values


def run_of(rate: Floats | None, sensors: Mapping[str, Floats], capacities: Mapping[str, float] | None = None) -> Run:
    seconds = len(rate) if rate is not None else len(next(iter(sensors.values())))
    nothing = np.zeros(seconds)
    return Run(seconds, rate, nothing.astype(bool), nothing, nothing, sensors, capacities or {})


class ChangePoints(unittest.TestCase):
    def test_known_changes_are_found(self) -> None:
        values = steps((60, 100.0), (80, 85.0), (100, 92.0), noise=0.01)
        found = change_points(values)
        self.assertEqual(len(found), 2)
        for at, true in zip(found, (60, 140), strict=True):
            self.assertLessEqual(abs(at - true), 1)

    def test_noise_alone_rarely_makes_one(self) -> None:
        found = sum(bool(change_points(RNG.normal(100, 1, 120))) for _ in range(100))
        self.assertLess(found, 15)

    def test_a_series_that_is_too_short_has_none(self) -> None:
        self.assertEqual(change_points(np.array([1.0, 9.0, 1.0, 9.0])), [])


class Sustained(unittest.TestCase):
    def test_burst_sustained_and_drop(self) -> None:
        rate = steps((30, 100.0), (90, 80.0), noise=0.005)
        clock = steps((30, 4600.0), (90, 3600.0), noise=0.001)
        heat = np.concatenate([np.linspace(50, 95, 30), np.full(90, 95.0)])
        found = sustained(run_of(rate, {"clock": clock, "temperature": heat, "busiest core": np.full(120, 99.0)}))
        assert found is not None
        self.assertAlmostEqual(found.burst, 100, delta=1)
        self.assertAlmostEqual(found.sustained, 80, delta=1)
        self.assertAlmostEqual(found.drop_pct, 20, delta=1)
        self.assertEqual((found.cause, found.first_drop_s), ("temperature", 30))
        assert found.evidence is not None
        self.assertIn("95 °C", say(found.evidence))
        self.assertEqual(found.peak_c, 95.0)

    def test_power_is_told_by_a_steady_draw_at_the_declared_limit(self) -> None:
        clock = steps((20, 4600.0), (100, 3900.0), noise=0.001)
        power = steps((20, 45.0), (100, 28.0), noise=0.003)
        busy = np.full(120, 99.0)
        run = run_of(
            steps((20, 100.0), (100, 88.0), noise=0.004), {"clock": clock, "power": power, "busiest core": busy}
        )
        found = sustained(run, declared=Limits(power_w=28))
        assert found is not None
        self.assertEqual(found.cause, "power")
        elsewhere = sustained(run, declared=Limits(power_w=65))
        assert elsewhere is not None
        self.assertEqual(elsewhere.cause, "unknown")

    def test_a_machine_far_under_its_declared_temperature_is_not_held_by_heat(self) -> None:
        clock = steps((20, 4600.0), (100, 3900.0), noise=0.001)
        run = run_of(None, {"clock": clock, "temperature": np.full(120, 60.0), "busiest core": np.full(120, 99.0)})
        found = sustained(run, declared=Limits(temperature_c=95))
        assert found is not None
        self.assertEqual((found.by, found.cause), ("clock", "unknown"))

    def test_a_heavier_scene_is_no_throttling(self) -> None:
        rate = steps((40, 100.0), (40, 82.0), (40, 100.0), noise=0.005)
        clock = np.full(120, 4600.0) + RNG.normal(0, 5, 120)
        found = sustained(run_of(rate, {"clock": clock, "temperature": np.full(120, 95.0)}))
        assert found is not None
        self.assertEqual((found.cause, found.evidence), ("unknown", note("rate_fell", clock="stayed")))

    def test_memory_that_ran_out_is_the_cause_of_the_drop(self) -> None:
        used = np.concatenate([np.linspace(1, 3.8, 30), np.full(90, 4.0)])
        rate = steps((30, 60.0), (90, 25.0), noise=0.005)
        found = sustained(run_of(rate, {"graphics memory used": used}, {"graphics memory used": 4.0}))
        assert found is not None
        self.assertEqual(found.cause, "memory")

    def test_the_part_that_counts_bounds_everything(self) -> None:
        rate = steps((20, 10.0), (60, 100.0), (60, 100.0), (20, 5.0), noise=0.004)
        found = sustained(run_of(rate, {}), from_s=20, to_s=140)
        assert found is not None
        self.assertAlmostEqual(found.burst, 100, delta=1)
        self.assertAlmostEqual(found.drop_pct, 0, delta=1)
        self.assertIsNone(found.first_drop_s)

    def test_without_rate_and_clock_nothing_is_said(self) -> None:
        self.assertIsNone(sustained(run_of(None, {"power": np.full(60, 20.0)})))
        self.assertIsNone(sustained(run_of(np.full(6, 60.0), {})))

    def test_a_day_long_soak_is_looked_at_in_coarser_steps(self) -> None:
        rate = steps((40_000, 100.0), (46_400, 80.0), noise=0.01)
        found = sustained(run_of(rate, {}))
        assert found is not None
        self.assertAlmostEqual(found.drop_pct, 20, delta=1)
        assert found.first_drop_s is not None
        self.assertLess(abs(found.first_drop_s - 40_000), 60)


class HeldBack(unittest.TestCase):
    def test_a_clock_that_falls_in_a_pause_is_not_held_back(self) -> None:
        clock = np.array([4600.0] * 10 + [800.0] * 5)
        busy = np.array([99.0] * 10 + [3.0] * 5)
        found = held_back(run_of(None, {"clock": clock, "busiest core": busy}), 4600.0, Limits())
        self.assertFalse(any(seconds.any() for seconds in found.values()))

    def test_a_missing_cause_is_said_to_be_unknown(self) -> None:
        clock = np.array([4600.0] * 10 + [4000.0] * 5)
        found = held_back(run_of(None, {"clock": clock, "busiest core": np.full(15, 99.0)}), 4600.0, Limits())
        self.assertEqual(np.flatnonzero(found["unknown"]).tolist(), [10, 11, 12, 13, 14])

    def test_drawing_the_declared_limit_is_enough_from_the_first_second_on(self) -> None:
        power = np.full(12, 19.9)
        found = held_back(run_of(None, {"power": power}), None, Limits(power_w=20))
        self.assertTrue(found["power"].all())
