"""Load search (section 8): the worked example, machines with a known limit, and what contradicts itself."""

import math
import unittest
from collections.abc import Callable

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.errors import BadPlan
from nomothet.core.load_search import (
    Attempt,
    Bracket,
    NextAttempt,
    SearchPlan,
    next_attempt,
    search_result,
    unstable_zone,
    use_fit,
)

MOST = 400


def run(plan: SearchPlan, holds: Callable[[NextAttempt], bool]) -> list[Attempt]:
    """Follow the proposals on a machine until there is none."""
    attempts: list[Attempt] = []
    while (proposed := next_attempt(plan, attempts)) is not None:
        attempts.append(Attempt(proposed.load, holds(proposed), proposed.hot))
        assert len(attempts) < MOST, attempts[-5:]
    return attempts


def attempts_bound(plan: SearchPlan, limit: int) -> int:
    """A bound on the cold attempts that a machine with one sharp limit needs: climbing, halving, confirming."""
    climbs = abs(math.log(max(limit, 1) / plan.start, plan.growth)) + plan.growth / (plan.growth - 1) + 2
    halvings = math.log2(max(2.0, plan.growth * max(limit, plan.start) / plan.resolution)) + 2
    return math.ceil(climbs + halvings + plan.confirm)


def loads(attempts: list[Attempt]) -> list[int]:
    return [one.load for one in attempts]


class WorkedExample(unittest.TestCase):
    plan = SearchPlan(start=50, growth=1.5, resolution=5)

    def test_the_machine_that_breaks_above_87(self) -> None:
        attempts = run(self.plan, lambda one: one.load <= 87)
        self.assertEqual(loads(attempts)[:6], [50, 75, 112, 93, 84, 88])
        self.assertEqual(set(loads(attempts)[6:]), {84})
        result = search_result(self.plan, attempts)
        self.assertEqual(result.cold, Bracket(84, 88))
        self.assertTrue(result.done)
        self.assertEqual(result.confirmed, 3)
        self.assertIsNone(result.unstable)

    def test_each_proposal_says_why(self) -> None:
        attempts = [Attempt(50, True), Attempt(75, True), Attempt(112, False)]
        self.assertEqual(next_attempt(self.plan, attempts), NextAttempt(93, "bisecting"))
        self.assertEqual(next_attempt(self.plan, attempts[:2]), NextAttempt(112, "growing"))

    def test_the_hot_check_and_what_heat_costs(self) -> None:
        plan = SearchPlan(start=50, growth=1.5, resolution=5, soak_s=900)
        attempts = run(plan, lambda one: one.load <= (76 if one.hot else 87))
        self.assertEqual([one.load for one in attempts if one.hot], [84, 79, 74])
        result = search_result(plan, attempts)
        assert result.hot is not None
        self.assertEqual(result.hot, Bracket(74, 79))
        self.assertAlmostEqual(result.loss_pct or 0, 100 * (1 - 74 / 84))

    def test_a_confirmation_that_breaks_steps_down_and_confirms_there(self) -> None:
        answers = iter([True, True, False, False, True, False, True, False])
        attempts = run(self.plan, lambda one: next(answers, True))
        self.assertEqual(loads(attempts)[:8], [50, 75, 112, 93, 84, 88, 84, 84])
        self.assertEqual(set(loads(attempts)[8:]), {79})
        result = search_result(self.plan, attempts)
        self.assertEqual(result.cold, Bracket(79, 84))
        self.assertEqual(result.unstable, (84, 84))


class Edges(unittest.TestCase):
    def test_a_start_that_breaks_is_divided_down(self) -> None:
        attempts = run(SearchPlan(start=64, growth=2.0), lambda one: one.load <= 9)
        self.assertEqual(loads(attempts)[:4], [64, 32, 16, 8])
        self.assertEqual(search_result(SearchPlan(start=64, growth=2.0), attempts).cold, Bracket(9, 10))

    def test_nothing_holds_down_to_the_floor(self) -> None:
        plan = SearchPlan(start=8, floor=2)
        attempts = run(plan, lambda one: False)
        self.assertEqual(attempts[-1].load, 2)
        result = search_result(plan, attempts)
        self.assertEqual(result.cold, Bracket(None, 2))
        self.assertTrue(result.done)

    def test_everything_holds_up_to_the_ceiling(self) -> None:
        plan = SearchPlan(start=4, ceiling=20, confirm=2)
        attempts = run(plan, lambda one: True)
        self.assertEqual(loads(attempts), [4, 6, 9, 13, 19, 20, 20])
        self.assertEqual(search_result(plan, attempts).cold, Bracket(20, None))

    def test_a_single_hold_can_be_enough(self) -> None:
        plan = SearchPlan(start=2, growth=2.0, confirm=1)
        self.assertEqual(loads(run(plan, lambda one: one.load <= 2)), [2, 4, 3])

    def test_plans_that_contradict_themselves_are_refused(self) -> None:
        for wrong in ({"growth": 1.0}, {"start": 3, "floor": 5}, {"resolution": 0}, {"confirm": 0}, {"ceiling": 0}):
            with self.subTest(wrong=wrong), self.assertRaises(BadPlan):
                SearchPlan(**wrong)  # type: ignore[arg-type]

    def test_contradictions_are_reported_and_not_smoothed_over(self) -> None:
        self.assertEqual(unstable_zone([Attempt(8, False), Attempt(10, True), Attempt(12, False)]), (8, 10))
        self.assertIsNone(unstable_zone([Attempt(8, True), Attempt(10, False)]))

    def test_an_unfinished_search_holds_only_what_was_tried_and_held(self) -> None:
        plan = SearchPlan(start=50, growth=1.5, resolution=5)
        tried = [Attempt(50, True), Attempt(75, True), Attempt(112, False), Attempt(93, False), Attempt(84, True),
                 Attempt(88, False), Attempt(84, False)]  # fmt: skip
        self.assertEqual(next_attempt(plan, tried), NextAttempt(79, "confirming"))
        result = search_result(plan, tried)
        self.assertEqual((result.cold, result.done), (Bracket(75, 84), False))
        self.assertEqual(result.unstable, (84, 84))
        self.assertEqual(search_result(plan, [*tried, Attempt(79, True)]).cold, Bracket(79, 84))

    def test_a_load_that_held_and_broke_is_never_the_one_that_held(self) -> None:
        plan = SearchPlan(start=4)
        self.assertEqual(search_result(plan, [Attempt(4, True), Attempt(4, False)]).cold, Bracket(None, 4))

    def test_stepping_down_may_pass_under_a_load_that_held_once(self) -> None:
        plan = SearchPlan(start=10, growth=2.0, resolution=8, confirm=2)
        attempts = [Attempt(10, True), Attempt(20, False), Attempt(15, True), Attempt(15, False), Attempt(7, True)]
        self.assertEqual(next_attempt(plan, attempts), NextAttempt(7, "confirming"))
        result = search_result(plan, [*attempts, Attempt(7, True)])
        self.assertEqual((result.cold, result.done), (Bracket(7, 15), True))

    def test_the_testers_own_loads_are_taken_into_account(self) -> None:
        plan = SearchPlan(start=4)
        self.assertEqual(next_attempt(plan, [Attempt(30, False)]), NextAttempt(20, "shrinking"))
        self.assertEqual(next_attempt(plan, [Attempt(30, False), Attempt(10, True)]), NextAttempt(20, "bisecting"))


class Ladders(unittest.TestCase):
    plan = SearchPlan(rungs=4)

    def test_from_the_most_demanding_rung_down_to_the_first_that_holds(self) -> None:
        attempts = run(self.plan, lambda one: one.load >= 2)
        self.assertEqual(loads(attempts), [0, 1, 2])
        result = search_result(self.plan, attempts)
        self.assertEqual((result.cold, result.done), (Bracket(2, 1), True))

    def test_no_rung_holds(self) -> None:
        attempts = run(self.plan, lambda one: False)
        self.assertEqual(search_result(self.plan, attempts).cold.held, None)
        self.assertEqual(len(attempts), 4)


class Properties(unittest.TestCase):
    @given(
        limit=st.integers(1, 5000),
        start=st.integers(1, 500),
        growth=st.floats(1.1, 4.0),
        resolution=st.integers(1, 12),
        confirm=st.integers(1, 4),
    )
    def test_a_sharp_limit_is_bracketed(
        self, limit: int, start: int, growth: float, resolution: int, confirm: int
    ) -> None:
        plan = SearchPlan(start=start, growth=growth, resolution=resolution, confirm=confirm)
        attempts = run(plan, lambda one: one.load <= limit)
        bracket = search_result(plan, attempts).cold
        assert bracket.held is not None
        assert bracket.broken is not None
        self.assertLessEqual(bracket.held, limit)
        self.assertGreater(bracket.broken, limit)
        self.assertLessEqual(bracket.broken - bracket.held, resolution)
        self.assertIsNone(search_result(plan, attempts).unstable)

    @given(limit=st.integers(1, 2000), start=st.integers(1, 300))
    def test_it_takes_no_more_attempts_than_halving_needs(self, limit: int, start: int) -> None:
        plan = SearchPlan(start=start)
        self.assertLessEqual(len(run(plan, lambda one: one.load <= limit)), attempts_bound(plan, limit))

    @given(outcomes=st.lists(st.booleans(), max_size=60), start=st.integers(1, 60))
    def test_any_machine_comes_to_an_end_and_a_stopped_search_goes_on_where_it_was(
        self, outcomes: list[bool], start: int
    ) -> None:
        plan = SearchPlan(start=start, ceiling=500, resolution=8, soak_s=60, confirm=2)
        answers = iter(outcomes)
        whole = run(plan, lambda one: next(answers, False))
        for upto in range(len(whole)):
            proposed = next_attempt(plan, whole[:upto])
            assert proposed is not None
            self.assertEqual((proposed.load, proposed.hot), (whole[upto].load, whole[upto].hot))
            self.assertTrue(plan.floor <= proposed.load <= plan.ceiling)


class Use(unittest.TestCase):
    def test_what_runs_out_first_follows_from_a_line(self) -> None:
        fit = use_fit("processor use", [4, 8, 12], [30.0, 50.0, 70.0], 100.0)
        assert fit is not None
        self.assertAlmostEqual(fit.slope, 5.0)
        self.assertAlmostEqual(fit.intercept, 10.0)
        self.assertAlmostEqual(fit.runs_out_at or 0, 18.0)

    def test_one_load_makes_no_line_and_a_falling_use_never_runs_out(self) -> None:
        self.assertIsNone(use_fit("x", [4, 4], [1.0, 2.0], 10.0))
        fit = use_fit("clock", [1, 2], [4000.0, 3900.0], 5000.0)
        assert fit is not None
        self.assertIsNone(fit.runs_out_at)
