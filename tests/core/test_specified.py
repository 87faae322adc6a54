"""What is specified against what was measured."""

import unittest

from nomothet.core.specified import specified_gap


class Gaps(unittest.TestCase):
    def test_a_clock_is_reached_up_to_three_per_cent_under_it(self) -> None:
        for highest, gap, verdict in ((4600.0, 0.0, "reached"), (4462.0, -3.0, "reached"), (4461.0, -3.02174, "short")):
            found = specified_gap("reach", 4600.0, highest)
            self.assertAlmostEqual(found.gap, gap, places=4)
            self.assertEqual(found.verdict, verdict)

    def test_more_than_specified_is_reached_too(self) -> None:
        self.assertEqual(specified_gap("reach", 5600.0, 6000.0).verdict, "reached")

    def test_a_power_limit_is_kept_touched_or_exceeded(self) -> None:
        for highest, verdict in ((19.0, "kept"), (19.4, "at the limit"), (20.6, "at the limit"), (20.7, "over")):
            self.assertEqual(specified_gap("limit", 20.0, highest).verdict, verdict, highest)

    def test_temperatures_differ_in_kelvin_and_never_by_a_ratio(self) -> None:
        for highest, gap, verdict in ((91.9, -3.1, "kept"), (92.0, -3.0, "at the limit"), (98.5, 3.5, "over")):
            found = specified_gap("limit", 95.0, highest, temperature=True)
            self.assertAlmostEqual(found.gap, gap)
            self.assertEqual(found.verdict, verdict)
