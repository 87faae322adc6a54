"""Section 1 of the method: worked examples, and random series against the obvious computation."""

import itertools
import unittest
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from nomothet.core.errors import BadFrames
from nomothet.core.frames import (
    checked_frame_times,
    cut,
    frame_figures,
    frame_times_of,
    is_thin,
    tail_length,
)
from nomothet.core.hitches import hitch_positions
from tests.core import naive

FRAME_TIMES = st.lists(st.floats(0.5, 200.0), min_size=2, max_size=300)


class WorkedExample(unittest.TestCase):
    """990 frames of 10 ms and 10 of 50 ms."""

    def setUp(self) -> None:
        self.figures = frame_figures([10.0] * 990 + [50.0] * 10, target_fps=60)

    def test_average_is_frames_divided_by_time(self) -> None:
        self.assertAlmostEqual(self.figures.duration_s, 10.4)
        self.assertAlmostEqual(self.figures.average_fps, 96.154, places=3)

    def test_lows_by_their_three_definitions(self) -> None:
        self.assertAlmostEqual(self.figures.p99_ms, 10.4)
        self.assertAlmostEqual(self.figures.low_1pct.percentile, 96.154, places=3)
        self.assertAlmostEqual(self.figures.low_1pct.slowest_mean, 20.0)
        self.assertAlmostEqual(self.figures.low_1pct.time_share, 20.0)

    def test_a_tail_of_ten_frames_is_not_thin_and_one_of_one_is(self) -> None:
        self.assertFalse(self.figures.low_1pct.thin)
        self.assertTrue(self.figures.low_01pct.thin)

    def test_time_under_the_target_counts_time_and_not_frames(self) -> None:
        self.assertAlmostEqual(self.figures.under_target_share or 0, 500 / 10_400)


class Figures(unittest.TestCase):
    @settings(max_examples=60)
    @given(FRAME_TIMES)
    def test_any_series_agrees_with_the_obvious_computation(self, frames: list[float]) -> None:
        figures = frame_figures(frames)
        self.assertAlmostEqual(figures.average_fps, 1000 * len(frames) / sum(frames), places=6)
        for q, value in ((0.5, figures.p50_ms), (0.95, figures.p95_ms), (0.99, figures.p99_ms)):
            self.assertAlmostEqual(value, naive.percentile(frames, q), places=6)
        self.assertAlmostEqual(figures.p50_ms, float(np.percentile(frames, 50)), places=6)
        for share, low in ((0.01, figures.low_1pct), (0.001, figures.low_01pct)):
            self.assertAlmostEqual(low.slowest_mean, naive.slowest_mean(frames, share), places=6)
            self.assertAlmostEqual(low.time_share, naive.time_share(frames, share), places=6)
        self.assertEqual(figures.lowest_second_fps, naive.lowest_second(frames))
        steps = [abs(b - a) for a, b in itertools.pairwise(frames)]
        uneven = 100 * (sum(steps) / len(steps)) / (sum(frames) / len(frames))
        self.assertAlmostEqual(figures.pacing_unevenness_pct, uneven, places=6)

    def test_target_has_a_tolerance_of_half_a_percent(self) -> None:
        at_limit = 1000 / 60 * 1.005
        frames = [at_limit * 0.9999] * 50 + [at_limit * 1.0001] * 50
        self.assertAlmostEqual(frame_figures(frames, target_fps=60).under_target_share or 0, 0.5, places=3)

    def test_under_a_second_there_is_no_lowest_second(self) -> None:
        self.assertIsNone(frame_figures([10.0] * 99).lowest_second_fps)

    def test_the_last_unfinished_second_is_left_out(self) -> None:
        self.assertEqual(frame_figures([10.0] * 100 + [900.0]).lowest_second_fps, 100)

    def test_a_capture_gap_is_counted(self) -> None:
        self.assertEqual(frame_figures([10.0] * 50 + [10_001.0]).capture_gaps, 1)
        self.assertEqual(frame_figures([10.0] * 50 + [10_000.0]).capture_gaps, 0)


class Hitches(unittest.TestCase):
    @settings(max_examples=60)
    @given(
        st.lists(st.sampled_from([4.0, 5.0, 8.0, 9.5, 10.0, 16.0, 20.5, 33.0, 80.0, 600.0]), min_size=3, max_size=250)
    )
    def test_found_frames_are_those_of_the_definition(self, frames: list[float]) -> None:
        f = np.array(frames)
        self.assertEqual(hitch_positions(f, np.cumsum(f)).tolist(), naive.hitches(frames))

    def test_long_series_agree_with_the_definition_too(self) -> None:
        rng = np.random.default_rng(5)
        for frames in (rng.gamma(20, 0.5, 900), rng.exponential(10, 900) + 0.1, rng.uniform(5, 30, 900)):
            frames[rng.integers(0, 900, 12)] *= 5
            found = hitch_positions(frames, np.cumsum(frames)).tolist()
            self.assertEqual(found, naive.hitches(frames.tolist()))

    def test_counting_first_finds_the_same_hitches(self) -> None:
        for seed in range(6, 18):
            rng = np.random.default_rng(seed)
            series = (
                rng.exponential(10, 700) + 0.1,
                rng.gamma(3, 2, 700),
                rng.choice([3.0, 6.0, 9.0, 20.0], 700),
                # Ties at exactly twice a median, and excesses of exactly 4 ms and just under.
                rng.choice([1.5, 2.0, 3.0, 4.0, 5.5, 6.0, 7.0, np.nextafter(7.0, 0), 8.0], 700),
                # Far more levels than are told apart, and windows of very different lengths.
                10.0 ** rng.uniform(-2, 3, 300),
                np.sort(rng.exponential(20, 300) + 0.5),
            )
            for at, frames in enumerate(series):
                with mock.patch("nomothet.core.hitches._MANY", 0):
                    counted = hitch_positions(frames, np.cumsum(frames)).tolist()
                with self.subTest(seed=seed, series=at):
                    self.assertEqual(counted, naive.hitches(frames.tolist()))

    def test_twice_the_median_is_not_enough_without_four_milliseconds(self) -> None:
        f = np.full(200, 3.0)
        f[100] = 6.5
        self.assertEqual(len(hitch_positions(f, np.cumsum(f))), 0)
        f[100] = 7.0
        self.assertEqual(hitch_positions(f, np.cumsum(f)).tolist(), [100])

    def test_rate_and_share_follow(self) -> None:
        f = np.full(6000, 10.0)
        f[[1000, 3000]] = 50.0
        figures = frame_figures(f)
        self.assertEqual(figures.hitches, 2)
        self.assertAlmostEqual(figures.hitch_rate_per_min, 2 * 60_000 / f.sum())
        self.assertAlmostEqual(figures.hitch_time_share, 100 / f.sum())


class VeryLongFrames(unittest.TestCase):
    def test_a_run_of_ages_takes_no_more_memory_than_its_frames(self) -> None:
        for longest in (1e6, 1e12, 1e300):
            frames = [10.0, 12.0, longest, 11.0]
            figures = frame_figures(frames)
            self.assertEqual((figures.lowest_second_fps, figures.capture_gaps), (0, 1))
            self.assertEqual(figures.frames, 4)

    def test_long_frames_are_judged_by_the_definition(self) -> None:
        for frames in ([2000.0, 3000.0, 9000.0, 2500.0], [900.0, 100.0, 80.0, 4000.0, 90.0], [5000.0] * 3):
            self.assertEqual(hitch_positions(np.array(frames), np.cumsum(frames)).tolist(), naive.hitches(frames))
            self.assertEqual(frame_figures(frames).lowest_second_fps, naive.lowest_second(frames))

    def test_a_sum_beyond_all_numbers_is_refused(self) -> None:
        with self.assertRaisesRegex(BadFrames, "add up"):
            frame_figures([1e308, 1e308])


class HeldRate(unittest.TestCase):
    def test_a_common_cap_is_recognised(self) -> None:
        rng = np.random.default_rng(2)
        self.assertEqual(frame_figures(rng.normal(1000 / 60, 0.1, 2000)).held_fps, 60)

    def test_a_rate_beside_every_cap_is_not_held(self) -> None:
        self.assertIsNone(frame_figures([1000 / 66.0] * 500).held_fps)

    def test_a_declared_cap_counts(self) -> None:
        self.assertEqual(frame_figures([1000 / 66.0] * 500, declared_cap_fps=66).held_fps, 66)

    def test_busy_graphics_speak_against_a_cap(self) -> None:
        frames = [1000 / 60] * 500
        self.assertEqual(frame_figures(frames, median_graphics_use=94.9).held_fps, 60)
        self.assertIsNone(frame_figures(frames, median_graphics_use=95.0).held_fps)

    def test_under_four_fifths_near_the_median_is_not_held(self) -> None:
        near, far = [1000 / 60] * 790, [1000 / 60 * 1.2] * 210
        self.assertIsNone(frame_figures(near + far).held_fps)


class BadInput(unittest.TestCase):
    def test_positions_of_all_kinds_of_bad_frames_are_named(self) -> None:
        for bad in (0.0, -1.0, float("nan"), float("inf")):
            with self.subTest(bad=bad), self.assertRaises(BadFrames) as caught:
                checked_frame_times([10.0, 10.0, bad, 10.0])
            self.assertEqual(caught.exception.positions, [2])
            self.assertIn("frame 3", str(caught.exception))

    def test_no_frame_is_refused(self) -> None:
        with self.assertRaises(BadFrames):
            frame_figures([])

    def test_timestamps_that_stand_still_are_refused(self) -> None:
        with self.assertRaises(BadFrames) as caught:
            frame_times_of([0.0, 1.0, 1.0], 1.0)
        self.assertEqual(caught.exception.positions, [2])

    def test_input_is_left_as_it_was(self) -> None:
        frames = np.array([30.0, 10.0, 20.0])
        frame_figures(frames)
        self.assertEqual(frames.tolist(), [30.0, 10.0, 20.0])


class Cuts(unittest.TestCase):
    def test_frames_that_end_within_the_warm_up_are_left_out(self) -> None:
        self.assertEqual(len(cut(np.full(300, 10.0), skip_s=1.0)), 200)

    def test_a_cut_of_everything_is_refused(self) -> None:
        with self.assertRaisesRegex(BadFrames, "leave no frame"):
            cut(np.full(100, 10.0), skip_s=0.6, end_cut_s=0.5)


class Tails(unittest.TestCase):
    def test_lengths_are_rounded_up_without_rounding_errors(self) -> None:
        self.assertEqual([tail_length(n, 0.01) for n in (1, 100, 101, 700, 1000)], [1, 1, 2, 7, 10])

    def test_thin_ends_at_a_thousand_and_at_ten_thousand(self) -> None:
        self.assertEqual([is_thin(999, 0.01), is_thin(1000, 0.01)], [True, False])
        self.assertEqual([is_thin(9999, 0.001), is_thin(10_000, 0.001)], [True, False])


class ShortOnTime(unittest.TestCase):
    def test_frames_that_last_next_to_nothing_are_computed_like_any_others(self) -> None:
        for tiny in (1e-300, 1e-14, 0.001):
            with self.subTest(tiny=tiny):
                figures = frame_figures([tiny] * 5)
                self.assertEqual((figures.frames, figures.hitches), (5, 0))

    def test_a_hitch_within_the_first_moment_is_found(self) -> None:
        self.assertEqual(frame_figures([0.5] * 20 + [9.0]).hitches, 1)
