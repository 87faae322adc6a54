"""A run cut into seconds."""

import math
import statistics
import unittest

import numpy as np

from nomothet.core.pass_analysis import analyse_pass
from nomothet.core.per_second import MOST_SECONDS, Lane, lane_of, quantity_of, run_by_seconds


class Frames(unittest.TestCase):
    def test_a_frame_belongs_to_the_second_in_which_it_ends(self) -> None:
        run = run_by_seconds(np.array([400.0, 600.0, 500.0, 500.0]), 0.0, [], 0.0)
        assert run.rate is not None
        # 400 ms and 600 ms end in the first second, the one at its very end included.
        self.assertEqual(run.seconds, 2)
        np.testing.assert_allclose(run.rate, [2.0, 2.0])

    def test_a_second_without_an_end_lies_within_the_frame_that_ends_next(self) -> None:
        run = run_by_seconds(np.array([500.0, 500.0, 3000.0]), 0.0, [], 0.0)
        assert run.rate is not None
        np.testing.assert_allclose(run.rate, [2.0, 1 / 3, 1 / 3, 1 / 3])

    def test_frames_that_begin_late_leave_the_first_seconds_without_a_rate(self) -> None:
        run = run_by_seconds(np.full(100, 10.0), 2.0, [], 3.0)
        assert run.rate is not None
        self.assertTrue(np.isnan(run.rate[:2]).all())
        self.assertAlmostEqual(run.rate[2], 100.0)

    def test_a_hitch_is_told_of_its_second(self) -> None:
        frames = np.full(300, 10.0)
        frames[150] = 60.0
        self.assertEqual(np.flatnonzero(run_by_seconds(frames, 0.0, [], 0.0).hitch).tolist(), [1])

    def test_evenness_is_the_share_near_the_second_s_own_median(self) -> None:
        frames = np.array([10.0] * 90 + [50.0, 50.0])
        run = run_by_seconds(frames, 0.0, [], 0.0)
        self.assertAlmostEqual(run.even[0], 90 / 92)
        self.assertEqual(run.middle_ms[0], 10.0)

    def test_every_second_has_the_middle_of_its_own_frames(self) -> None:
        rng = np.random.default_rng(11)
        for mean, spread, count in ((10.0, 0.5, 5000), (16.7, 6.0, 3000), (900.0, 500.0, 60), (4000.0, 900.0, 12)):
            frames = np.abs(rng.normal(mean, spread, count)) + 0.01
            run = run_by_seconds(frames, 0.0, [], 0.0)
            held: dict[int, list[float]] = {}
            clock = 0.0
            for frame in frames.tolist():
                clock += frame / 1000
                held.setdefault(math.ceil(clock - 1e-9) - 1, []).append(frame)
            for second in range(run.seconds):
                own = held.get(second, [])
                with self.subTest(mean=mean, second=second):
                    if not own:
                        self.assertTrue(math.isnan(run.middle_ms[second]) and math.isnan(run.even[second]))
                        continue
                    middle = statistics.median(own)
                    self.assertAlmostEqual(run.middle_ms[second], middle, places=12)
                    close = sum(abs(one - middle) <= 0.04 * middle for one in own)
                    self.assertAlmostEqual(run.even[second], close / len(own), places=12)

    def test_nonsense_lengths_do_not_fill_the_memory(self) -> None:
        self.assertEqual(run_by_seconds(np.full(5, 1e12), 0.0, [], 1e15).seconds, MOST_SECONDS)


class Lanes(unittest.TestCase):
    def test_readings_are_averaged_by_second(self) -> None:
        lane = Lane("power", np.array([0.0, 0.5, 1.0, 1.5]), np.array([10.0, 20.0, 30.0, 50.0]))
        np.testing.assert_allclose(run_by_seconds(None, 0.0, [lane], 2.0).sensors["power"], [15.0, 40.0])

    def test_a_slow_sensor_is_held_until_its_next_reading_and_not_for_ever(self) -> None:
        lane = Lane("power", np.array([0.0, 2.0, 4.0]), np.array([10.0, 20.0, 30.0]))
        seen = run_by_seconds(None, 0.0, [lane], 20.0).sensors["power"]
        np.testing.assert_allclose(seen[:5], [10, 10, 20, 20, 30])
        self.assertTrue(np.isnan(seen[-1]))

    def test_failed_readings_are_no_readings(self) -> None:
        lane = Lane("clock", np.array([0.0, 0.5, 1.0]), np.array([np.nan, 4000.0, np.nan]))
        seen = run_by_seconds(None, 0.0, [lane], 2.0).sensors["clock"]
        self.assertEqual(seen[0], 4000.0)

    def test_of_several_places_the_hottest_counts(self) -> None:
        cool = Lane("temperature", np.arange(3.0), np.array([40.0, 41.0, 42.0]))
        hot = Lane("temperature", np.arange(3.0), np.array([60.0, 61.0, 62.0]))
        run = run_by_seconds(None, 0.0, [cool, hot], 3.0)
        np.testing.assert_allclose(run.sensors["temperature"], [60, 61, 62])

    def test_what_lanes_are_called_here_and_elsewhere(self) -> None:
        known = {
            ("temperature package", "°C"): "temperature",
            ("graphics temperature", "°C"): "graphics temperature",
            ("room temperature", "°C"): "room temperature",
            ("Graphics memory used", "GiB"): "graphics memory used",
            ("memory used", "GB"): "memory used",
            ("memory available", "GB"): None,
            ("core 7", "%"): None,
            ("waiting for storage", "%"): "waiting for storage",
            ("power meter", "W"): "wall power",
            ("package power", "W"): "power",
        }
        for (name, unit), quantity in known.items():
            with self.subTest(name):
                self.assertEqual(quantity_of(name, unit), quantity)


class Units(unittest.TestCase):
    def lane(self, name: str, unit: str, values: list[float], capacity: float | None = None) -> Lane:
        lane = lane_of(name, unit, np.arange(float(len(values))), np.array(values), capacity)
        assert lane is not None
        return lane

    def test_readings_come_into_the_unit_of_their_quantity(self) -> None:
        for name, unit, value, wanted in (
            ("graphics memory used", "MB", 6144.0, 6.0),
            ("memory used", "GiB", 6.0, 6.0),
            ("clock", "GHz", 4.6, 4600.0),
            ("power package", "W", 35.0, 35.0),
            ("temperature package", "°C", 88.0, 88.0),
        ):
            with self.subTest(name=name, unit=unit):
                self.assertAlmostEqual(self.lane(name, unit, [value]).values[0], wanted)

    def test_a_capacity_comes_along(self) -> None:
        run = run_by_seconds(None, 0.0, [self.lane("graphics memory used", "MB", [6144.0, 8192.0], 8192.0)], 2.0)
        self.assertEqual(run.capacities, {"graphics memory used": 8.0})
        share = run.share_of("graphics memory used")
        assert share is not None
        np.testing.assert_allclose(share, [0.75, 1.0])

    def test_memory_in_per_cent_tells_when_it_is_full_and_not_how_much_is_used(self) -> None:
        used = [50.0] * 10 + [99.0] * 10
        lanes = [
            self.lane("graphics memory used", "%", used),
            self.lane("graphics use", "%", [99.0] * 10 + [40.0] * 10, 100.0),
        ]
        frames = np.concatenate([np.full(1000, 10.0), np.full(200, 50.0)])
        found = analyse_pass(frames, lanes, length_s=20.0)
        self.assertEqual(found.uses, {})
        assert found.collapse is not None
        self.assertEqual((found.collapse.at_s, found.collapse.used, found.collapse.unit), (10, 99.0, "%"))
