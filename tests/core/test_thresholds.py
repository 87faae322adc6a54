"""Every threshold of docs/method.md from both sides: the last value that does not count, and the first that does."""

import math
import unittest
from collections.abc import Mapping
from typing import Any

import numpy as np

from nomothet.core.change_steps import disagrees
from nomothet.core.comparable import comparability
from nomothet.core.enough import enough, use_of
from nomothet.core.frames import frame_figures, is_thin
from nomothet.core.limits import limits_of
from nomothet.core.memory import transfer_rate
from nomothet.core.passes import flags
from nomothet.core.sensor_trust import sensor_doubts
from nomothet.core.specified import NEAR_C, NEAR_PCT, specified_gap
from nomothet.core.target import target_rate
from tests.core.test_limits import N, flat, run_of


class Frames(unittest.TestCase):
    """Section 1."""

    def hitches(self, frame_ms: float, usual_ms: float) -> int:
        frames = np.full(200, usual_ms)
        frames[100] = frame_ms
        return frame_figures(frames).hitches

    def test_a_hitch_is_twice_the_middle_and_four_milliseconds_over_it(self) -> None:
        for usual, under, over in ((10.0, 19.99, 20.0), (2.0, 5.99, 6.0), (4.0, 7.99, 8.0)):
            with self.subTest(usual=usual):
                self.assertEqual((self.hitches(under, usual), self.hitches(over, usual)), (0, 1))

    def test_a_low_needs_ten_frames_in_its_tail(self) -> None:
        self.assertEqual([is_thin(n, 0.01) for n in (999, 1000)], [True, False])
        self.assertEqual([is_thin(n, 0.001) for n in (9_999, 10_000)], [True, False])

    def test_a_frame_is_under_the_target_from_half_a_per_cent_on(self) -> None:
        edge = 1000 / 60 * 1.005
        for frame, share in ((edge * 0.9999, 0.0), (edge * 1.0001, 1.0)):
            with self.subTest(frame=frame):
                found = frame_figures([frame] * 100, target_fps=60).under_target_share
                self.assertAlmostEqual(found or 0.0, share)

    def held(self, frames: Any, **more: float) -> bool:
        return frame_figures(frames, **more).held_fps is not None

    def test_a_rate_is_held_by_four_fifths_of_the_frames_within_four_per_cent(self) -> None:
        cap = 1000 / 60
        self.assertTrue(self.held([cap] * 800 + [cap * 2] * 200))
        self.assertFalse(self.held([cap] * 799 + [cap * 2] * 201))
        self.assertTrue(self.held([cap] * 501 + [cap * 1.0399] * 499))
        self.assertFalse(self.held([cap] * 501 + [cap * 1.0401] * 499))

    def test_a_rate_is_held_within_a_per_cent_of_a_cap(self) -> None:
        self.assertTrue(self.held([1000 / (60 * 1.0099)] * 500))
        self.assertFalse(self.held([1000 / (60 * 1.0101)] * 500))
        self.assertFalse(self.held([1000 / 67.0] * 500))
        self.assertTrue(self.held([1000 / 67.0] * 500, declared_cap_fps=67))

    def test_graphics_at_95_per_cent_are_no_cap(self) -> None:
        steady = [1000 / 60] * 500
        self.assertTrue(self.held(steady, median_graphics_use=94.9))
        self.assertFalse(self.held(steady, median_graphics_use=95.0))


class Passes(unittest.TestCase):
    """Section 2."""

    def test_an_odd_pass_needs_four_passes(self) -> None:
        self.assertEqual(flags([100.0, 100.1, 80.0]).odd, ())
        self.assertEqual(flags([100.0, 100.1, 99.9, 80.0]).odd, (3,))

    def test_few_passes_are_judged_by_three_times_the_borrowed_noise(self) -> None:
        for away, odd in ((0.0299, ()), (0.0301, (2,))):
            values = [100.0, 100.0, 100.0 * math.exp(away)]
            with self.subTest(away=away):
                self.assertEqual(flags(values, borrowed_sd=0.01).odd, odd)

    def test_where_most_agree_exactly_every_other_is_odd(self) -> None:
        self.assertEqual(flags([60.0, 60.0, 60.0, 60.001], "difference").odd, (3,))


class Limits(unittest.TestCase):
    """Section 12, line by line."""

    def called(self, sensors: Mapping[str, float], capacities: Mapping[str, float] | None = None, **more: Any) -> str:
        run = run_of({name: flat(value) for name, value in sensors.items()}, capacities)
        return limits_of(run, **more).called

    def test_single_thresholds(self) -> None:
        memory = {"graphics memory used": 100.0, "memory used": 100.0}
        for kind, under, at in (
            ("graphics", {"graphics use": 94.9}, {"graphics use": 95.0}),
            ("one thread", {"busiest core": 89.9, "processor use": 40}, {"busiest core": 90.0, "processor use": 40}),
            ("one thread", {"busiest core": 95, "processor use": 80.0}, {"busiest core": 95, "processor use": 79.9}),
            ("all threads", {"processor use": 89.9}, {"processor use": 90.0}),
            ("all threads", {"processor use": 79.9, "busiest core": 95}, {"processor use": 80.0, "busiest core": 95}),
            ("storage", {"waiting for storage": 19.9}, {"waiting for storage": 20.0}),
            (
                "graphics memory",
                {"graphics memory used": 96.9, "graphics use": 40},
                {"graphics memory used": 97.0, "graphics use": 40},
            ),
            (
                "graphics memory",
                {"graphics memory used": 99, "graphics use": 60.0},
                {"graphics memory used": 99, "graphics use": 59.9},
            ),
            (
                "memory capacity",
                {"memory used": 94.9, "major page faults": 200},
                {"memory used": 95.0, "major page faults": 200},
            ),
            (
                "memory capacity",
                {"memory used": 96, "major page faults": 99.9},
                {"memory used": 96, "major page faults": 100.0},
            ),
        ):
            with self.subTest(kind=kind, at=at):
                self.assertNotEqual(self.called(under, memory), kind)
                self.assertEqual(self.called(at, memory), kind)

    def test_a_clock_held_back_is_seven_per_cent_under_its_burst_while_something_works(self) -> None:
        for mhz, busy, held in ((3721, 60, False), (3719, 60, True), (3719, 49.9, False), (3719, 50, True)):
            with self.subTest(mhz=mhz, busy=busy):
                found = self.called({"clock": mhz, "busiest core": busy}, burst_clock_mhz=4000.0)
                self.assertEqual(found == "clock held back", held)

    def test_a_second_is_capped_by_four_fifths_of_its_frames(self) -> None:
        for even, kind in ((0.8, "rate cap"), (0.79, "nothing recorded")):
            with self.subTest(even=even):
                self.assertEqual(limits_of(run_of({}, even=even), held_fps=60.0).called, kind)

    def test_a_run_is_called_by_half_of_its_seconds(self) -> None:
        half = np.where(np.arange(N) < N // 2, 99.0, 40.0)
        less = np.where(np.arange(N) < N // 2 - 1, 99.0, 40.0)
        rest = np.where(np.arange(N) < N // 2, 0.0, 30.0)
        self.assertEqual(limits_of(run_of({"graphics use": half, "waiting for storage": rest})).called, "graphics")
        third = np.where(np.arange(N) >= N - N // 3, 30.0, 0.0)
        self.assertEqual(limits_of(run_of({"graphics use": less, "waiting for storage": third})).called, "mixed")


class Machines(unittest.TestCase):
    """Sections 15 to 17, 19 and 21."""

    def test_half_a_transfer_rate_is_told_within_two_per_cent(self) -> None:
        for reading, halved in ((2744.1, True), (2743.0, False), (2855.9, True), (2857.0, False), (5600, False)):
            with self.subTest(reading=reading):
                self.assertEqual(transfer_rate(reading, 5600).halved, halved)

    def test_rooms_differ_from_three_degrees_on(self) -> None:
        for other, differs in ((25.0, False), (25.1, True), (19.0, False), (18.9, True)):
            with self.subTest(other=other):
                found = comparability({"ambient_c": 22.0}, {"ambient_c": other})
                self.assertEqual(bool(found.differences), differs)

    def test_a_use_within_three_per_cent_of_the_capacity_was_cut_off(self) -> None:
        self.assertTrue(use_of([7.77] * 50, capacity=8).cut_off)
        self.assertFalse(use_of([7.75] * 50, capacity=8).cut_off)

    def test_the_reserve_is_on_top_and_a_size_that_just_holds_it_is_enough(self) -> None:
        uses = {"walk": use_of([5.0] * 50, capacity=16)}
        self.assertEqual(enough(uses, [6.0, 8.0], 0.2).size, 6.0)
        self.assertEqual(enough(uses, [5.99, 8.0], 0.2).size, 8.0)
        self.assertIsNone(enough(uses, [5.99], 0.2).size)

    def test_what_is_read_agrees_with_what_is_set_within_five_per_cent(self) -> None:
        for observed, differs in ((36.75, False), (36.76, True), (33.25, False), (33.24, True)):
            with self.subTest(observed=observed):
                self.assertEqual(disagrees(35, observed), differs)

    def test_what_is_specified_is_near_within_its_band(self) -> None:
        for kind, highest, verdict in (
            ("reach", 4600 * (1 - NEAR_PCT / 100), "reached"),
            ("reach", 4600 * (1 - NEAR_PCT / 100) - 1, "short"),
            ("limit", 4600 * (1 - NEAR_PCT / 100) - 1, "kept"),
            ("limit", 4600 * (1 + NEAR_PCT / 100), "at the limit"),
            ("limit", 4600 * (1 + NEAR_PCT / 100) + 1, "over"),
        ):
            with self.subTest(kind=kind, highest=highest):
                self.assertEqual(specified_gap(kind, 4600, highest).verdict, verdict)
        for band, verdict in (
            (-NEAR_C - 0.1, "kept"),
            (-NEAR_C, "at the limit"),
            (NEAR_C + 0.1, "over"),
        ):
            self.assertEqual(specified_gap("limit", 95, 95 + band, temperature=True).verdict, verdict)

    def test_a_held_rate_meets_its_target_within_half_a_per_cent(self) -> None:
        for rate, held_at, met in ((59.71, 60.0, True), (59.69, 60.0, False), (59.71, None, False)):
            with self.subTest(rate=rate, held_at=held_at):
                found = target_rate(60, [rate] * 3, None, held_at=held_at)
                self.assertEqual(found.average.reached, met)


class Sensors(unittest.TestCase):
    """Section 24."""

    def test_a_standstill_means_something_from_forty_samples_on(self) -> None:
        self.assertEqual([len(sensor_doubts(np.full(n, 61.0), "°C")) for n in (39, 40)], [0, 1])

    def test_gaps_are_told_beyond_a_twentieth(self) -> None:
        values = np.arange(100.0)
        for missing, told in ((5, 0), (6, 1)):
            gappy = values.copy()
            gappy[:missing] = np.nan
            with self.subTest(missing=missing):
                self.assertEqual(len(sensor_doubts(gappy, "unheard of")), told)

    def test_a_share_is_possible_up_to_a_hundred(self) -> None:
        self.assertEqual(sensor_doubts(np.array([0.0, 100.0]), "%"), [])
        self.assertEqual(sensor_doubts(np.array([0.0, 140.0]), "%")[0].code, "values_impossible")
