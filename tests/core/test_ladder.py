"""Ladders: the most demanding rung that is met, whatever order the rungs were tried in."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.ladder import descend, rung_of

WORDS = st.sampled_from(["met", "average only", "missed", "cannot tell", None])


class Ladder(unittest.TestCase):
    @given(st.lists(WORDS, max_size=8))
    def test_the_best_is_the_first_met_and_a_found_ladder_asks_for_nothing(self, rungs: list[str | None]) -> None:
        found = descend(rungs)  # type: ignore[arg-type]
        self.assertEqual(found.best, rungs.index("met") if "met" in rungs else None)
        self.assertEqual(found.word == "found", found.best is not None)
        if found.best is not None:
            self.assertIsNone(found.next)
            self.assertTrue(all(rungs[at] in (None, "cannot tell") for at in found.above))
            self.assertTrue(all(at > found.best and rungs[at] in ("missed", "average only") for at in found.against))

    @given(st.lists(WORDS.filter(lambda word: word != "met"), min_size=1, max_size=8))
    def test_following_what_comes_next_ends_the_descent(self, truth: list[str | None]) -> None:
        hidden = ["missed" if word in (None, "cannot tell") else word for word in truth]
        tried: list[str | None] = [None] * len(hidden)
        for _ in hidden:
            following = descend(tried).next  # type: ignore[arg-type]
            self.assertIsNotNone(following)
            tried[following] = hidden[following]  # type: ignore[index]
        self.assertEqual(descend(tried).word, "none")  # type: ignore[arg-type]

    def test_the_worst_of_several_targets_counts(self) -> None:
        self.assertEqual(rung_of(["met", "average only", "cannot tell"]), "average only")
        self.assertEqual(rung_of(["met", "met"]), "met")
        self.assertEqual(rung_of(["met"], failed=True), "missed")
