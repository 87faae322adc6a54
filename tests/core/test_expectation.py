"""What was expected against an interval: every way in which the two can lie to one another."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.expectation import EXPECTED, held_against

MARGIN = 0.03
ratios = st.floats(0.2, 5.0)


class Ahead(unittest.TestCase):
    def test_it_is_held_above_no_difference_and_not_held_under_it_or_within_the_margin(self) -> None:
        for low, high, said in (
            (1.05, 1.10, "held"),
            (1.005, 1.10, "held"),
            (0.90, 0.95, "not held"),
            (0.99, 1.02, "not held"),
            (0.95, 1.10, "cannot tell"),
            (1.001, 1.02, "not held"),
        ):
            with self.subTest(low=low, high=high):
                self.assertEqual(held_against("ahead", low, high, MARGIN), said)

    def test_by_so_much_at_most(self) -> None:
        for low, high, said in (
            (1.05, 1.09, "held"),
            (1.05, 1.20, "cannot tell"),
            (1.12, 1.20, "not held"),
            (0.90, 0.95, "not held"),
        ):
            with self.subTest(low=low, high=high):
                self.assertEqual(held_against("ahead", low, high, MARGIN, 0.10), said)


class Level(unittest.TestCase):
    def test_it_is_held_within_the_margin_and_not_held_beyond_it(self) -> None:
        for low, high, said in (
            (0.98, 1.02, "held"),
            (1.031, 1.10, "not held"),
            (0.80, 0.965, "not held"),
            (0.96, 1.01, "cannot tell"),
        ):
            with self.subTest(low=low, high=high):
                self.assertEqual(held_against("level", low, high, MARGIN), said)

    def test_a_wider_reach_of_its_own(self) -> None:
        self.assertEqual(held_against("level", 0.93, 1.05, MARGIN, 0.08), "held")


class Behind(unittest.TestCase):
    def test_at_most_so_many_per_cent_slower_is_of_the_value_itself(self) -> None:
        self.assertEqual(held_against("behind", 0.901, 0.95, MARGIN, 0.10), "held")
        self.assertEqual(held_against("behind", 0.899, 0.95, MARGIN, 0.10), "cannot tell")
        self.assertEqual(held_against("behind", 0.80, 0.899, MARGIN, 0.10), "not held")

    @given(ratios, ratios)
    def test_it_is_ahead_seen_from_the_other_side(self, a: float, b: float) -> None:
        low, high = sorted((a, b))
        self.assertEqual(held_against("behind", low, high, MARGIN), held_against("ahead", 1 / high, 1 / low, MARGIN))


class Any(unittest.TestCase):
    def test_without_noise_nothing_can_be_told(self) -> None:
        for word in EXPECTED:
            self.assertEqual(held_against(word, None, None, MARGIN), "cannot tell")

    @given(ratios, ratios, st.sampled_from(EXPECTED))
    def test_a_narrower_interval_within_never_turns_held_into_not_held(self, a: float, b: float, word: str) -> None:
        low, high = sorted((a, b))
        said = held_against(word, low, high, MARGIN)  # type: ignore[arg-type]
        middle = math.sqrt(low * high)
        narrow = held_against(word, middle * 0.999999, middle * 1.000001, MARGIN)  # type: ignore[arg-type]
        if said == "held" and word == "level":
            self.assertEqual(narrow, "held")
        if said == "not held":
            self.assertEqual(narrow, "not held")
