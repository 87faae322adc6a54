"""One figure of a sensor, what is worked out of two figures, and settings switched within a run."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.lane_statistics import STATISTICS, integrate, lane_statistic
from nomothet.core.segments import Span
from nomothet.core.toggles import difference_of, toggled_pairs
from nomothet.core.worked_out import worked_out

T = np.array([0.0, 1.0, 2.0])
W = np.array([10.0, 20.0, 10.0])


class Statistics(unittest.TestCase):
    def test_the_worked_example_of_the_method(self) -> None:
        told = {one: lane_statistic(T, W, [Span(0.0, 2.0)], one) for one in ("integral", "mean")}
        self.assertEqual(told, {"integral": 30.0, "mean": 15.0})

    def test_uneven_readings_weigh_by_their_time_and_not_by_their_number(self) -> None:
        t = np.array([0.0, 0.1, 0.2, 0.3, 10.0])
        found = lane_statistic(
            np.linspace(0, 10, 101), np.where(np.linspace(0, 10, 101) < 5, 0.0, 10.0), [Span(0, 10)], "mean"
        )
        self.assertAlmostEqual(found or 0, 5.0, delta=0.1)
        self.assertIsNone(lane_statistic(t, np.ones(5), [Span(0, 10)], "mean"), "a gap of many steps is not bridged")

    def test_too_little_of_the_window_is_not_recorded(self) -> None:
        t = np.arange(0.0, 61.0)
        # Readings hold for three steps after the last.
        self.assertIsNotNone(lane_statistic(t, np.ones(61), [Span(0, 66)], "mean"))
        self.assertIsNone(lane_statistic(t, np.ones(61), [Span(0, 68)], "mean"))

    def test_the_end_and_the_peak_are_those_of_what_counts(self) -> None:
        t = np.arange(0.0, 10.0)
        y = np.array([90.0, 50, 51, 52, 53, 54, 55, 56, 57, 99])
        window = [Span(1.0, 8.0)]
        self.assertEqual([lane_statistic(t, y, window, one) for one in ("peak", "end")], [57.0, 57.0])

    def test_several_windows_count_together(self) -> None:
        t, y = np.arange(0.0, 11.0), np.arange(0.0, 11.0)
        self.assertAlmostEqual(lane_statistic(t, y, [Span(0, 2), Span(8, 10)], "mean") or 0, 5.0)
        self.assertAlmostEqual(lane_statistic(t, y, [Span(0, 2), Span(8, 10)], "integral") or 0, 20.0)

    def test_nothing_read_is_no_figure(self) -> None:
        for t, y in ((np.zeros(0), np.zeros(0)), (T, np.full(3, np.nan))):
            for one in STATISTICS:
                self.assertIsNone(lane_statistic(t, y, [Span(0, 2)], one))
        self.assertIsNone(lane_statistic(T, W, [], "mean"))

    @given(st.floats(1, 500), st.integers(2, 50), st.floats(0.1, 5))
    def test_a_steady_sensor_is_its_value_whatever_its_step(self, value: float, readings: int, step: float) -> None:
        t = np.arange(readings) * step
        window = [Span(0.0, float(t[-1]))]
        for one in ("mean", "peak", "p95", "end"):
            found = lane_statistic(t, np.full(readings, value), window, one)  # type: ignore[arg-type]
            self.assertAlmostEqual(found or 0, value, places=6)
        area, covered = integrate(t, np.full(readings, value), 0.0, float(t[-1]))
        self.assertAlmostEqual(area, value * covered, places=4)

    @given(st.lists(st.floats(0, 300), min_size=3, max_size=40), st.floats(0.1, 0.9))
    def test_the_integral_of_two_halves_is_that_of_the_whole(self, values: list[float], part: float) -> None:
        t = np.arange(float(len(values)))
        end, cut = float(t[-1]), part * float(t[-1])
        whole = integrate(t, np.array(values), 0.0, end)
        halves = [integrate(t, np.array(values), *edges) for edges in ((0.0, cut), (cut, end))]
        self.assertAlmostEqual(sum(half[0] for half in halves), whole[0], places=5)
        self.assertAlmostEqual(sum(half[1] for half in halves), whole[1], places=6)


class WorkedOut(unittest.TestCase):
    def test_figures_of_one_pass_are_paired(self) -> None:
        found = worked_out({1: 60.0, 2: 90.0}, {1: 30.0, 2: 30.0, 3: 99.0}, "ratio")
        self.assertEqual((found.passes, found.values, found.paired), ([1, 2], [2.0, 3.0], True))
        self.assertEqual(found.spreads, [0.0, 0.0])

    def test_every_way_has_its_arithmetic(self) -> None:
        for by, wanted in (("ratio", 2.0), ("product", 50.0), ("difference", 5.0)):
            self.assertEqual(worked_out({1: 10.0}, {1: 5.0}, by).values, [wanted])  # type: ignore[arg-type]

    def test_figures_of_other_passes_bring_the_error_of_their_centre(self) -> None:
        b = {4: 28.0, 5: 30.0, 6: 32.0}
        found = worked_out({1: 60.0, 2: 60.0}, b, "ratio")
        self.assertFalse(found.paired)
        middle = math.exp(sum(map(math.log, b.values())) / 3)
        self.assertAlmostEqual(found.values[0], 60 / middle)
        # One error for both values: √(Σu²)/n of section 18 must give back 60/m² · s/√3.
        error = math.sqrt(sum(u * u for u in found.spreads)) / 2
        self.assertAlmostEqual(error, 60 / middle**2 * 2 / math.sqrt(3))

    def test_what_cannot_be_divided_is_left_out(self) -> None:
        self.assertEqual(worked_out({1: 60.0, 2: 60.0}, {1: 0.0, 2: 30.0}, "ratio").values, [2.0])
        self.assertEqual(worked_out({1: 60.0}, {}, "ratio").values, [])


class Toggles(unittest.TestCase):
    @staticmethod
    def spans(*labels: str) -> list[Span]:
        return [Span(10 * at, 10 * at + 9, label) for at, label in enumerate(labels)]

    def pairs(self, *labels: str) -> list[tuple[float, float]]:
        return [(a.start_s, b.start_s) for a, b in toggled_pairs(self.spans(*labels), "on", "off")]

    def test_each_stretch_is_in_one_pair(self) -> None:
        self.assertEqual(self.pairs("off", "on", "off"), [(10, 0)])
        self.assertEqual(self.pairs("off", "on", "off", "on"), [(10, 0), (30, 20)])
        self.assertEqual(self.pairs("on", "off", "on", "off", "on"), [(0, 10), (20, 30)])

    def test_other_parts_between_are_passed_over_and_two_of_a_kind_are_no_pair(self) -> None:
        self.assertEqual(self.pairs("off", "menu", "on"), [(20, 0)])
        self.assertEqual(self.pairs("off", "off", "on"), [(20, 10)])
        self.assertEqual(self.pairs("on"), [])

    def test_a_change_of_a_rate_is_told_in_percent_and_of_a_temperature_in_its_unit(self) -> None:
        self.assertEqual(difference_of(57.0, 60.0, ratio=True), -5.0)
        self.assertEqual(difference_of(57.0, 60.0, ratio=False), -3.0)
        self.assertIsNone(difference_of(57.0, 0.0, ratio=True))
