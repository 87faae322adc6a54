"""Rounds and sessions as they follow from when passes were run."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.compare_placed import compare_placed
from nomothet.core.placing import SESSION_GAP_S, Ran, rounds_of, same_session
from nomothet.core.rounds import Placed


def run(order: str, in_rounds: bool = True) -> list[Ran]:
    return [Ran(name, 100.0 * at, 100.0 * at + 60, in_rounds) for at, name in enumerate(order)]


class Rounds(unittest.TestCase):
    def test_there_and_back_again(self) -> None:
        self.assertEqual(rounds_of(run("abccbaabc")), [0, 0, 0, 1, 1, 1, 2, 2, 2])

    def test_a_round_may_lack_a_configuration(self) -> None:
        self.assertEqual(rounds_of(run("abcabab")), [0, 0, 0, 1, 1, 2, 2])

    def test_passes_that_no_round_was_made_of_have_none_and_part_nothing(self) -> None:
        passes = [*run("ab"), Ran("a", 150.0, 160.0)]
        self.assertEqual(rounds_of(passes), [0, 0, None])

    @given(st.lists(st.sampled_from("abcd"), max_size=40), st.randoms(use_true_random=False))
    def test_no_configuration_is_twice_in_a_round_and_the_order_given_does_not_matter(self, order, random) -> None:  # type: ignore[no-untyped-def]
        passes = run("".join(order))
        found = dict(zip(passes, rounds_of(passes), strict=True))
        self.assertEqual(len(set(zip(order, found.values(), strict=True))), len(order))
        shuffled = random.sample(passes, len(passes))
        self.assertEqual([found[one] for one in shuffled], rounds_of(shuffled))


class Sessions(unittest.TestCase):
    def test_what_parts_them(self) -> None:
        first = Ran("a", 0, 60)
        for one, breaks, same in (
            (Ran("a", 100, 160), [], True),
            (Ran("b", 100, 160), [], False),
            (Ran("a", 60 + SESSION_GAP_S - 1, 0), [], True),
            (Ran("a", 60 + SESSION_GAP_S, 0), [], False),
            (Ran("a", 100, 160), [80.0], False),
            (Ran("a", 100, 160), [100.5], True),
            (Ran("a", 100, 160), [-1.0], True),
        ):
            with self.subTest(one=one, breaks=breaks):
                self.assertEqual(same_session(first, one, breaks), same)


class Readings(unittest.TestCase):
    """What readings that are not exact add, whichever way the passes were placed."""

    def test_the_reading_error_widens_rounds_sessions_and_passes_alike(self) -> None:
        a = [100.0, 101, 99, 100.5, 99.5, 100.2]
        b = [110.0, 111, 109, 110.5, 109.5, 110.2]
        rounds = {name: [Placed(v, at) for at, v in enumerate(own)] for name, own in (("a", a), ("b", b))}
        sessions = {name: [Placed(v, None, at // 2) for at, v in enumerate(own)] for name, own in (("a", a), ("b", b))}
        plain = {name: [Placed(v) for v in own] for name, own in (("a", a), ("b", b))}
        for by, cells in (("rounds", rounds), ("sessions", sessions), ("passes", plain)):
            with self.subTest(by=by):
                exact = compare_placed(cells, "a")["b"]
                read = compare_placed(cells, "a", spreads={"b": 0.02})["b"]
                self.assertEqual((exact.by, read.by), (by, by))
                assert exact.comparison.low is not None
                assert read.comparison.low is not None
                self.assertLess(read.comparison.low, exact.comparison.low)
                self.assertEqual(read.comparison.effect, exact.comparison.effect)
