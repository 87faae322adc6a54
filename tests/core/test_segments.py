"""What counts of a run: cuts, spans, ranges set aside; and figures over several stretches."""

import unittest

import numpy as np

from nomothet.core.errors import BadFrames
from nomothet.core.frames import figures_of_pieces, frame_figures
from nomothet.core.segments import Counting, Span, pieces_that_count, seconds_that_count
from tests.core import naive

RNG = np.random.default_rng(3)


class Pieces(unittest.TestCase):
    def setUp(self) -> None:
        # Six seconds of 100 frames, each second with a frame time of its own number in hundredths over 10 ms.
        self.frames = np.full(600, 10.0)

    def lengths(self, counting: Counting, **more: object) -> list[int]:
        return [len(piece) for piece in pieces_that_count(self.frames, counting, **more)]  # type: ignore[arg-type]

    def test_without_anything_all_counts_as_it_is(self) -> None:
        (only,) = pieces_that_count(self.frames, Counting())
        np.testing.assert_array_equal(only, self.frames)

    def test_cuts_bound_it(self) -> None:
        self.assertEqual(self.lengths(Counting(1.0, 2.0)), [300])

    def test_a_range_set_aside_leaves_two_stretches(self) -> None:
        self.assertEqual(self.lengths(Counting(), aside=[Span(2.0, 3.0)]), [200, 300])

    def test_only_and_without_are_each_other_s_rest(self) -> None:
        spans = [Span(1.0, 2.0, "crowd"), Span(4.0, 5.0, "crowd"), Span(2.0, 3.0, "menu")]
        self.assertEqual(self.lengths(Counting(rule="only", labels=("crowd",)), spans=spans), [100, 100])
        self.assertEqual(self.lengths(Counting(rule="without", labels=("crowd",)), spans=spans), [100, 200, 100])
        self.assertEqual(self.lengths(Counting(rule="only", labels=("crowd", "menu")), spans=spans), [200, 100])

    def test_spans_stand_on_the_clock_of_the_pass(self) -> None:
        spans = [Span(10.0, 11.0, "crowd")]
        self.assertEqual(self.lengths(Counting(rule="only", labels=("crowd",)), spans=spans, starts_at_s=9.0), [100])

    def test_a_span_that_is_not_marked_is_told_by_name(self) -> None:
        with self.assertRaisesRegex(BadFrames, "'crowd' is marked"):
            self.lengths(Counting(rule="only", labels=("crowd",)))
        self.assertEqual(self.lengths(Counting(rule="without", labels=("crowd",))), [600])

    def test_nothing_left_is_refused(self) -> None:
        with self.assertRaisesRegex(BadFrames, "nothing is left"):
            self.lengths(Counting(), aside=[Span(0.0, 7.0)])

    def test_whole_seconds_that_touch_a_range_do_not_count(self) -> None:
        counts = seconds_that_count(6, 0, 6, [Span(1.9, 2.1), Span(5.0, 6.0)])
        self.assertEqual(np.flatnonzero(counts).tolist(), [0, 3, 4])


class FiguresOfPieces(unittest.TestCase):
    def test_one_piece_is_the_series_itself(self) -> None:
        frames = RNG.gamma(20, 0.5, 3000)
        self.assertEqual(figures_of_pieces([frames], target_fps=90), frame_figures(frames, target_fps=90))

    def test_totals_and_tails_are_of_all_frames_together(self) -> None:
        a, b = RNG.gamma(20, 0.5, 2000), RNG.gamma(20, 0.6, 1500)
        figures = figures_of_pieces([a, b])
        both = np.concatenate([a, b]).tolist()
        self.assertEqual(figures.frames, 3500)
        self.assertAlmostEqual(figures.average_fps, 1000 * 3500 / sum(both))
        self.assertAlmostEqual(figures.low_1pct.slowest_mean, naive.slowest_mean(both, 0.01))

    def test_no_step_is_made_across_a_gap(self) -> None:
        figures = figures_of_pieces([np.full(200, 10.0), np.full(200, 30.0)])
        self.assertEqual((figures.pacing_unevenness_pct, figures.hitches), (0.0, 0))
        joined = frame_figures(np.concatenate([np.full(200, 10.0), np.full(200, 30.0)]))
        self.assertGreater(joined.pacing_unevenness_pct, 0)

    def test_the_lowest_second_is_looked_for_in_each_stretch(self) -> None:
        figures = figures_of_pieces([np.full(250, 10.0), np.full(30, 50.0), np.full(5, 100.0)])
        # 2.5 s of 100 frames a second, 1.5 s of 20, and half a second that is no whole one.
        self.assertEqual(figures.lowest_second_fps, 20)

    def test_hitches_of_each_stretch_add_up(self) -> None:
        piece = np.full(300, 10.0)
        piece[150] = 50.0
        figures = figures_of_pieces([piece, piece])
        self.assertEqual(figures.hitches, 2)
        self.assertAlmostEqual(figures.hitch_time_share, 100 / float(2 * piece.sum()))
