"""The order of work: against brute force on small plans, and what holds for every plan."""

import unittest
from collections import Counter
from itertools import permutations

from hypothesis import given, settings
from hypothesis import strategies as st

from nomothet.core.docket_order import Cost, Mode, Order, Setup, change_cost, order_work, route_cost
from nomothet.core.errors import BadPlan


def setup(key: int, kit: str = "", firmware: int = 0, fan: int = 0) -> Setup:
    return Setup(key, frozenset({("kit", kit)}), frozenset({("mts", firmware)}), frozenset({("fan", fan)}))


@st.composite
def plans(draw: st.DrawFn, most: int = 6) -> tuple[dict[int, Setup], dict[int, dict[int, int]]]:
    keys = range(1, draw(st.integers(1, most)) + 1)
    setups = {
        key: setup(key, draw(st.sampled_from("abc")), draw(st.integers(0, 2)), draw(st.integers(0, 2))) for key in keys
    }
    owed = {key: draw(st.dictionaries(st.integers(1, 3), st.integers(1, 4), max_size=3)) for key in keys}
    return setups, owed


def run(order: Order) -> Counter[tuple[int, int]]:
    """Passes by (configuration, test)."""
    counted: Counter[tuple[int, int]] = Counter()
    for visit in order.visits:
        for test, count in visit.passes:
            counted[visit.key, test] += count
    return counted


def planned(owed: dict[int, dict[int, int]]) -> Counter[tuple[int, int]]:
    return Counter({(key, test): count for key, tests in owed.items() for test, count in tests.items()})


class Properties(unittest.TestCase):
    @given(
        plans(), st.sampled_from(["fewest", "balanced", "shuffled"]), st.integers(0, 99), st.booleans(), st.booleans()
    )
    def test_each_owed_pass_is_run_exactly_once(
        self, plan: tuple[dict[int, Setup], dict[int, dict[int, int]]], mode: Mode, seed: int, begun: bool, based: bool
    ) -> None:
        setups, owed = plan
        order = order_work(setups, owed, baseline=1 if based else None, baseline_begun=begun, mode=mode, seed=seed)
        self.assertEqual(run(order), planned(owed))
        for before, after in zip(order.visits, order.visits[1:], strict=False):
            self.assertNotEqual(before.key, after.key)

    @given(plans(), st.booleans())
    def test_no_order_of_the_same_configurations_opens_the_machine_less(
        self, plan: tuple[dict[int, Setup], dict[int, dict[int, int]]], at_hand: bool
    ) -> None:
        setups, owed = plan
        present = setup(0, "b", 1, 1) if at_hand else None
        order = order_work(setups, owed, present=present)
        keys = [key for key, tests in owed.items() if tests]
        first = [present] if present else []
        least = min(
            (route_cost([*first, *(setups[key] for key in line)]) for line in permutations(keys)),
            default=Cost(0, 0, 0),
        )
        self.assertEqual(order.cost, least)
        if keys:
            self.assertEqual(order.cost.openings, order.fewest_openings)
        self.assertTrue(order.exact)

    @given(plans(most=5), st.booleans())
    def test_with_a_baseline_at_both_ends_it_is_still_the_least(
        self, plan: tuple[dict[int, Setup], dict[int, dict[int, int]]], begun: bool
    ) -> None:
        setups, owed = plan
        owed[1] = {1: 3}
        order = order_work(setups, owed, baseline=1, baseline_begun=begun)
        middle = [key for key, tests in owed.items() if tests and key != 1]
        if not middle:
            self.assertEqual([visit.key for visit in order.visits], [1])
            return
        self.assertEqual([order.visits[0].key, order.visits[-1].key], [1, 1])
        least = min(route_cost([setups[1], *(setups[key] for key in line), setups[1]]) for line in permutations(middle))
        self.assertEqual(order.cost, least)
        self.assertEqual(order.cost.openings, order.fewest_openings)

    @settings(max_examples=15)
    @given(st.integers(15, 20), st.randoms(use_true_random=False))
    def test_a_large_plan_has_the_fewest_openings_too(self, n: int, rng: st.DataObject) -> None:
        pick = rng.choice  # type: ignore[attr-defined]
        setups = {key: setup(key, pick("abcd"), pick([0, 1, 2]), pick([0, 1, 2, 3])) for key in range(1, n + 1)}
        order = order_work(setups, {key: {1: 2, 2: 2} for key in setups}, baseline=1)
        self.assertFalse(order.exact)
        kinds = {one.hardware for one in setups.values()}
        self.assertEqual(order.cost.openings, len(kinds) if len(kinds) > 1 else 0)
        self.assertEqual(order.cost.openings, order.fewest_openings)
        self.assertEqual(sum(run(order).values()), 4 * n)


class Modes(unittest.TestCase):
    SETUPS = {key: setup(key, "ab"[key % 2]) for key in (1, 2, 3, 4)}
    OWED = {key: {7: 4} for key in SETUPS}

    def test_balanced_rounds_run_forwards_and_backwards_so_that_mean_places_are_equal(self) -> None:
        order = order_work(self.SETUPS, self.OWED, mode="balanced")
        line = [visit.key for visit in order.visits for _ in visit.passes]
        self.assertEqual(line, [1, 2, 3, 4, 4, 3, 2, 1, 1, 2, 3, 4, 4, 3, 2, 1])
        places = {key: sum(at for at, one in enumerate(line) if one == key) for key in self.SETUPS}
        self.assertEqual(len(set(places.values())), 1)

    def test_a_shuffle_follows_its_seed(self) -> None:
        lines = [
            [v.key for v in order_work(self.SETUPS, self.OWED, mode="shuffled", seed=seed).visits] for seed in (5, 5, 6)
        ]
        self.assertEqual(lines[0], lines[1])
        self.assertNotEqual(lines[0], lines[2])

    def test_a_single_pass_of_the_baseline_comes_first_unless_it_was_begun(self) -> None:
        owed = {1: {7: 1}, 2: {7: 1}}
        self.assertEqual([v.key for v in order_work(self.SETUPS, owed, baseline=1).visits], [1, 2])
        self.assertEqual([v.key for v in order_work(self.SETUPS, owed, baseline=1, baseline_begun=True).visits], [2, 1])

    def test_what_is_on_the_machine_now_comes_first(self) -> None:
        order = order_work(self.SETUPS, self.OWED, present=self.SETUPS[3])
        self.assertEqual(order.visits[0].key, 3)
        self.assertEqual(order.cost.openings, 1)

    def test_nothing_owed_is_nothing_to_do(self) -> None:
        self.assertEqual(order_work(self.SETUPS, {}).visits, [])

    def test_contradictions_are_refused(self) -> None:
        for owed in ({9: {1: 1}}, {1: {1: 0}}):
            with self.subTest(owed=owed), self.assertRaises(BadPlan):
                order_work(self.SETUPS, owed)

    def test_the_cost_counts_each_changed_thing_once(self) -> None:
        self.assertEqual(change_cost(setup(1, "a", 0, 0), setup(2, "b", 1, 1)), Cost(1, 1, 3))
        self.assertEqual(change_cost(setup(1, "a", 0, 0), setup(2, "a", 0, 2)), Cost(0, 0, 1))
