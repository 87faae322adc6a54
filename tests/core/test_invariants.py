"""What must hold for any data: figures and comparisons under scaling, reordering and exchange."""

import math
import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from nomothet.core.compare import compare_with_baseline
from nomothet.core.frames import cut, frame_figures, frame_times_of
from nomothet.core.noise import pooled_noise
from nomothet.core.passes import centre, summary

FRAMES = st.lists(st.floats(1.0, 100.0), min_size=20, max_size=200)
CELL = st.lists(st.floats(10.0, 1000.0), min_size=2, max_size=6)
CELLS = st.fixed_dictionaries({"A": CELL, "B": CELL, "C": CELL})


class FrameInvariants(unittest.TestCase):
    @settings(max_examples=40)
    @given(FRAMES, st.floats(0.2, 5.0))
    def test_frames_twice_as_long_are_half_the_rate(self, frames: list[float], factor: float) -> None:
        before, after = frame_figures(frames), frame_figures([f * factor for f in frames])
        self.assertAlmostEqual(after.average_fps * factor, before.average_fps, places=6)
        self.assertAlmostEqual(after.low_1pct.slowest_mean * factor, before.low_1pct.slowest_mean, places=6)
        self.assertAlmostEqual(after.pacing_unevenness_pct, before.pacing_unevenness_pct, places=6)

    @settings(max_examples=40)
    @given(FRAMES, st.randoms(use_true_random=False))
    def test_order_matters_only_to_what_looks_at_order(self, frames: list[float], random: object) -> None:
        shuffled = list(frames)
        random.shuffle(shuffled)  # type: ignore[attr-defined]
        before, after = frame_figures(frames), frame_figures(shuffled)
        for name in ("average_fps", "p50_ms", "p99_ms"):
            self.assertAlmostEqual(getattr(before, name), getattr(after, name), places=6)
        self.assertAlmostEqual(before.low_1pct.slowest_mean, after.low_1pct.slowest_mean, places=6)

    @settings(max_examples=40)
    @given(FRAMES)
    def test_lows_lie_between_the_slowest_frame_and_the_average(self, frames: list[float]) -> None:
        figures = frame_figures(frames)
        slowest = 1000 / max(frames)
        for low in (figures.low_1pct, figures.low_01pct):
            self.assertGreaterEqual(low.slowest_mean, slowest - 1e-9)
            self.assertLessEqual(low.slowest_mean, figures.average_fps + 1e-9)
        self.assertLessEqual(figures.low_01pct.slowest_mean, figures.low_1pct.slowest_mean + 1e-9)

    @settings(max_examples=40)
    @given(FRAMES, st.floats(24, 240))
    def test_shares_are_shares(self, frames: list[float], target: float) -> None:
        figures = frame_figures(frames, target_fps=target)
        for share in (figures.under_target_share or 0.0, figures.hitch_time_share):
            self.assertGreaterEqual(share, 0)
            self.assertLessEqual(share, 1 + 1e-12)

    @settings(max_examples=40)
    @given(FRAMES, st.sampled_from([1000.0, 1.0, 0.001]))
    def test_timestamps_give_back_the_frames(self, frames: list[float], unit_ms: float) -> None:
        stamps = np.concatenate([[0.0], np.cumsum(frames)]) / unit_ms
        np.testing.assert_allclose(frame_times_of(stamps, unit_ms), frames, rtol=1e-6)

    @settings(max_examples=40)
    @given(FRAMES, st.floats(0.0, 0.1), st.floats(0.0, 0.1))
    def test_a_cut_leaves_a_stretch_of_the_run(self, frames: list[float], skip: float, end: float) -> None:
        array = np.array(frames)
        assume(array.sum() / 1000 >= skip + end + 0.2)
        kept = cut(array, skip, end)
        text = ",".join(map(repr, array.tolist()))
        self.assertIn(",".join(map(repr, kept.tolist())), text)
        self.assertAlmostEqual(kept.sum() / 1000, array.sum() / 1000 - skip - end, delta=0.2)


class ComparisonInvariants(unittest.TestCase):
    @settings(max_examples=60)
    @given(CELLS, st.floats(0.01, 100.0))
    def test_another_unit_changes_no_ratio_and_no_verdict(self, cells: dict[str, list[float]], unit: float) -> None:
        before = compare_with_baseline(cells, "A")
        after = compare_with_baseline({name: [v * unit for v in values] for name, values in cells.items()}, "A")
        for name in ("B", "C"):
            self.assertAlmostEqual(before[name].effect, after[name].effect, places=6)
            self.assertAlmostEqual(before[name].low or 0, after[name].low or 0, places=5)

    @settings(max_examples=60)
    @given(CELLS)
    def test_exchanging_the_two_turns_ratio_and_verdict(self, cells: dict[str, list[float]]) -> None:
        there = compare_with_baseline(cells, "A")["B"]
        back = compare_with_baseline(cells, "B")["A"]
        turned = {"ahead": "behind", "slightly ahead": "slightly behind", "behind": "ahead"}
        self.assertAlmostEqual(there.effect * back.effect, 1.0, places=9)
        if there.verdict == "ahead":
            self.assertEqual(back.verdict, turned[there.verdict])
        if there.verdict == "undecided":
            self.assertEqual(back.verdict, "undecided")

    @settings(max_examples=60)
    @given(CELLS)
    def test_the_ratio_shown_is_the_ratio_of_the_centres_shown(self, cells: dict[str, list[float]]) -> None:
        found = compare_with_baseline(cells, "A")["B"]
        self.assertAlmostEqual(found.change, centre(cells["B"]) / centre(cells["A"]), places=9)

    @settings(max_examples=60)
    @given(CELL, st.floats(-50, 50))
    def test_on_the_difference_scale_a_shift_moves_centre_and_interval(self, cell: list[float], shift: float) -> None:
        before = summary(cell, "difference")
        after = summary([value + shift for value in cell], "difference")
        self.assertAlmostEqual(after.centre - before.centre, shift, places=6)
        self.assertAlmostEqual(after.spread or 0, before.spread or 0, places=6)

    @settings(max_examples=60)
    @given(CELLS)
    def test_pooled_noise_lies_between_the_quietest_and_the_loudest_cell(self, cells: dict[str, list[float]]) -> None:
        spreads = [summary(values).spread or 0.0 for values in cells.values()]
        noise = pooled_noise(cells.values())
        self.assertGreaterEqual(noise.sd, min(spreads) - 1e-9)
        self.assertLessEqual(noise.sd, max(spreads) + 1e-9)
        self.assertEqual(noise.df, sum(len(values) - 1 for values in cells.values()))

    @settings(max_examples=60)
    @given(CELLS, st.floats(0.001, 0.5))
    def test_a_verdict_is_level_only_within_the_margin(self, cells: dict[str, list[float]], margin: float) -> None:
        for found in compare_with_baseline(cells, "A", margin=margin).values():
            if found.verdict == "level":
                self.assertLessEqual(math.log(found.high or 0), math.log1p(margin) + 1e-12)
                self.assertGreaterEqual(math.log(found.low or 0), -math.log1p(margin) - 1e-12)
