"""Quantities, parts, settings, same-as, differences and the plan check."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.compare import Noise
from nomothet.core.differences import Aspect, difference_table, undeclared
from nomothet.core.errors import BadPlan, BadQuantity
from nomothet.core.parts import KINDS, read_attributes
from nomothet.core.plan_check import (
    Plan,
    PlannedColumn,
    PlannedFactor,
    PlannedTest,
    Requirement,
    check_plan,
    confounded,
    missing_alone,
)
from nomothet.core.quantities import Spec, Value, read_value
from nomothet.core.same_as import changes_from, lineage, resolve
from nomothet.core.settings import (
    CATALOGUE,
    GROUPS,
    MADE_IN,
    TOUCHED,
    goes_with_system,
    is_known,
    own_key,
    read_setting,
    setting_of,
)
from nomothet.words import say

STATES = st.dictionaries(st.sampled_from("abcdef"), st.integers(0, 3))


class OwnSettings(unittest.TestCase):
    def test_a_key_tells_what_a_team_has_said(self) -> None:
        for touches in TOUCHED:
            for made_in, where in MADE_IN.items():
                setting = setting_of(own_key("Game mode", touches, made_in, "ms"))
                self.assertEqual((setting.touches, setting.where, setting.spec.unit), (touches, where, "ms"))
                self.assertEqual((setting.spec.label, setting.restart), ("Game mode", made_in == "restart"))

    def test_a_part_of_the_machine_goes_with_it_and_what_runs_on_it_does_not(self) -> None:
        self.assertTrue(goes_with_system(own_key("refresh", "memory", "firmware")))
        self.assertFalse(goes_with_system(own_key("Game mode", "system", "system")))

    def test_what_is_no_such_key_is_a_free_setting(self) -> None:
        self.assertFalse(is_known("own.nowhere.system.x"))
        self.assertEqual(setting_of("own_fan_rpm").spec.unit, "rpm")


class MissingAlone(unittest.TestCase):
    def alone(self, *rows: tuple[str, str]) -> list[tuple[str, str]]:
        factors = [PlannedFactor(key, key, ()) for key in ("m", "p")]
        columns = [PlannedColumn(at, str(at), {"m": m, "p": p}, {}, at == 0) for at, (m, p) in enumerate(rows)]
        plan = Plan(factors, columns, [], difference_table([], {}), 0.03, 3)
        return [(one.factor, one.level) for one in missing_alone(plan)]

    def test_a_whole_grid_lacks_nothing(self) -> None:
        self.assertEqual(self.alone(("-", "-"), ("t", "-"), ("-", "t"), ("t", "t")), [])

    def test_both_changed_at_once_lack_each_alone(self) -> None:
        self.assertEqual(self.alone(("-", "-"), ("t", "t")), [("m", "t"), ("p", "t")])

    def test_each_level_counts(self) -> None:
        self.assertEqual(self.alone(("-", "-"), ("t", "-"), ("u", "t")), [("m", "u"), ("p", "t")])


class Quantities(unittest.TestCase):
    def test_units_of_one_family_are_converted(self) -> None:
        self.assertEqual(read_setting("power_limit_w", "0.035 kW"), 35)
        self.assertEqual(read_setting("processor_clock_mhz", "4.6 GHz"), 4600)
        self.assertEqual(read_setting("memory_mts", "5600"), 5600)

    def test_a_mistaken_unit_is_refused_with_what_would_do(self) -> None:
        for key, value, words in (
            ("memory_mts", 5.6, "another unit"),
            ("memory_mts", "5600 W", "MT/s"),
            ("power_limit_w", -5, "0.5 to 2000 W"),
            ("power_limit_w", float("nan"), "finite"),
            ("power_limit_w", True, "number in W"),
            ("memory_cas", 36.5, "whole"),
            ("door", "ajar", "open bench, open, closed"),
            ("image", "  ", "empty"),
            ("Power Limit", 35, "cannot name a setting"),
            ("tweak.network card.sleep", "maybe", "off, applied, verified"),
        ):
            with self.subTest(key=key, value=value), self.assertRaises(BadQuantity) as refused:
                read_setting(key, value)
            self.assertIn(words, str(refused.exception))
            self.assertEqual(refused.exception.field, key)

    def test_yes_and_no_are_read(self) -> None:
        spec = Spec("ecc", "error correction", "yes_no")
        self.assertIs(read_value(spec, "Yes"), True)
        self.assertIs(read_value(spec, False), False)
        with self.assertRaises(BadQuantity):
            read_value(spec, "perhaps")

    def test_every_setting_has_a_group_and_every_rating_an_attribute(self) -> None:
        for setting in CATALOGUE.values():
            self.assertIn(setting.group, GROUPS)
            if setting.rated:
                kind, attribute = setting.rated
                self.assertIn(attribute, [spec.key for spec in KINDS[kind].attributes])
            self.assertLessEqual(set(setting.reset_by), set(KINDS))

    def test_a_free_setting_has_the_unit_of_its_ending(self) -> None:
        spec = setting_of("pump_w").spec
        self.assertEqual((spec.label, spec.unit), ("pump", "W"))


class Parts(unittest.TestCase):
    def test_attributes_are_typed_by_kind_and_free_ones_kept(self) -> None:
        read = read_attributes(
            "memory_kit",
            [
                {"key": "rated_mts", "value": "5.6 GT/s", "source": "label"},
                {"key": "colour", "value": "green", "source": "belief"},
                {"key": "ranks", "value": None, "source": "unknown"},
            ],
        )
        self.assertEqual([(one.value, one.unit, one.source) for one in read],
                         [(5600, "MT/s", "label"), ("green", "", "belief"), (None, "", "unknown")])  # fmt: skip

    def test_what_cannot_be_is_refused_by_its_field(self) -> None:
        for kind, given_, field in (
            ("memory_kit", [{"key": "rated_mts", "value": 5.6, "source": "label"}], "rated_mts"),
            ("memory_kit", [{"key": "modules", "value": 2, "source": "hearsay"}], "modules"),
            ("memory_kit", [{"key": "modules", "value": None, "source": "label"}], "modules"),
            ("memory_kit", [{"key": "modules", "value": 2}, {"key": "modules", "value": 2}], "modules"),
            ("memory_kit", [{"value": 2}], "attributes"),
            ("memory_kit", {"modules": 2}, "attributes"),
            ("memory_kit", [{"key": "modules", "value": [2], "source": "label"}], "modules"),
            ("anvil", [], "kind"),
        ):
            with self.subTest(given=given_), self.assertRaises(BadQuantity) as refused:
                read_attributes(kind, given_)
            self.assertEqual(refused.exception.field, field)


class SameAs(unittest.TestCase):
    @given(STATES, STATES)
    def test_the_changes_make_the_wanted_state_and_nothing_is_in_them_that_does_not_differ(
        self, base: dict[str, int], wanted: dict[str, int]
    ) -> None:
        changes = changes_from(base, wanted)
        self.assertEqual(resolve("w", {"b": None, "w": "b"}, {"b": base, "w": changes}), wanted)
        for name, value in changes.items():
            self.assertNotEqual(base.get(name), value)

    def test_a_circle_is_refused(self) -> None:
        with self.assertRaises(BadPlan):
            lineage(1, {1: 2, 2: 3, 3: 1})

    def test_a_chain_is_overlaid_from_its_root(self) -> None:
        self.assertEqual(lineage(3, {1: None, 2: 1, 3: 2}), [3, 2, 1])
        state = resolve(3, {1: None, 2: 1, 3: 2}, {1: {"w": 35, "fan": 2}, 2: {"w": 28}, 3: {"fan": None}})
        self.assertEqual(state, {"w": 28})


class Differences(unittest.TestCase):
    KIT = {
        "kit": Aspect("kit", "kit"),
        "gb": Aspect("gb", "capacity", parents=("kit",)),
        "mts": Aspect("mts", "speed", parents=("kit",)),
    }

    def test_a_kit_that_differs_in_several_ways_shows_each(self) -> None:
        states: list[dict[str, Value]] = [
            {"kit": "small", "gb": 8, "mts": 4800},
            {"kit": "large", "gb": 16, "mts": 5600},
        ]
        table = difference_table(states, self.KIT, declared=["gb"])
        self.assertEqual(
            {row.aspect.key: row.status for row in table.rows},
            {"kit": "undeclared", "gb": "factor", "mts": "undeclared"},
        )
        self.assertEqual([row.aspect.key for row in undeclared(table)], ["kit"])
        whole = difference_table(states, self.KIT, declared=["kit"])
        self.assertEqual(undeclared(whole), [])

    @given(
        st.lists(STATES, min_size=1, max_size=5), st.sets(st.sampled_from("abcdef")), st.sets(st.sampled_from("abcdef"))
    )
    def test_rows_and_constants_are_each_aspect_once_and_rows_truly_differ(
        self, states: list[dict[str, int]], declared: set[str], accepted: set[str]
    ) -> None:
        table = difference_table(states, {}, declared, accepted)
        keys = [row.aspect.key for row in table.rows] + [aspect.key for aspect, _ in table.constant]
        self.assertEqual(sorted(keys), sorted({key for state in states for key in state}))
        for row in table.rows:
            self.assertGreater(len({repr(value) for value in row.values}), 1)
            self.assertTrue(0 < len(row.odd) < len(states))
            self.assertEqual(row.status == "factor", row.aspect.key in declared)
            self.assertEqual(row.incomplete, any(row.aspect.key not in state for state in states))

    def test_the_odd_one_is_the_one_that_differs_from_most(self) -> None:
        table = difference_table([{"fan": 2}, {"fan": 2}, {"fan": 3}], {})
        self.assertEqual(table.rows[0].odd, (2,))


def column(at: int, levels: dict[str, str] | None = None, **state: Value) -> PlannedColumn:
    return PlannedColumn(at, f"column {at}", levels or {}, state, is_baseline=at == 1)


def plan(columns: list[PlannedColumn], declared: tuple[str, ...] = ("w",), **changes: object) -> Plan:
    table = difference_table([one.state for one in columns], {}, declared)
    base = Plan(
        factors=[PlannedFactor("power", "power limit", ("35", "15"), frozenset({"processor"}))],
        columns=columns,
        tests=[PlannedTest(1, "Reef Walk 2", isolates="processor", duration_s=60)],
        table=table,
        margin=0.03,
        passes=3,
        returns_to_baseline=True,
    )
    return replace(base, **changes)  # type: ignore[arg-type]


class PlanCheck(unittest.TestCase):
    TWO = [column(1, {"power": "35"}, w=35), column(2, {"power": "15"}, w=15)]

    def codes(self, of: Plan) -> list[str]:
        return [point.code for point in check_plan(of)]

    def test_a_sound_plan_has_no_point(self) -> None:
        self.assertEqual(self.codes(plan(self.TWO)), [])

    def test_differences_and_gaps_are_told(self) -> None:
        extra = [column(1, {"power": "35"}, w=35, fan=2, image=41), column(2, {"power": "15"}, w=15, fan=3)]
        points = check_plan(plan(extra))
        self.assertEqual([point.code for point in points], ["undeclared", "unequal"])
        self.assertEqual(points[0].about, {"aspect": "fan"})
        self.assertIn("column 2", say(points[1].found))

    def test_what_is_missing_altogether_stops(self) -> None:
        self.assertEqual(self.codes(plan([], tests=[], factors=[], expected=False))[:2], ["columns", "tests"])

    def test_each_weakness_of_a_test_is_told(self) -> None:
        base = PlannedTest(1, "Tidal Rally", duration_s=60)
        for code, test in (
            ("isolation", replace(base, isolates="graphics")),
            ("cap", replace(base, capped_fps=60, judged_by_rate=True)),
            ("short", replace(base, duration_s=12)),
            ("load_step", replace(base, load_start=20, load_step=4)),
            ("passes", replace(base, noise=Noise(0.04, 20, "borrowed"))),
            ("settings", replace(base, missing_settings=("resolution",))),
            ("requirement", replace(base, requirements=(Requirement("w", "power", 20, "W"),))),
        ):
            with self.subTest(code=code):
                self.assertEqual(self.codes(plan(self.TWO, tests=[test])), [code])

    def test_what_is_lacking_is_told_once_with_all_that_it_is_true_of(self) -> None:
        need = (Requirement("graphics_memory_gb", "graphics memory", 8, "GB"),)
        tests = [PlannedTest(1, "walk", requirements=need), PlannedTest(2, "flight", requirements=need)]
        one, two = self.TWO
        # The card of the first has enough; the second borrows too little, and its card has less.
        one = replace(one, state={**one.state, "part.graphics.memory_gb": 8, "graphics_memory_gb": 2})
        two = replace(two, state={**two.state, "part.graphics.memory_gb": 6, "graphics_memory_gb": 2})
        found = [point for point in check_plan(plan([one, two], tests=tests)) if point.code == "requirement"]
        self.assertEqual(len(found), 1)
        self.assertIn("walk and flight ask for 8 GB of graphics memory", say(found[0].found))
        self.assertIn(f"{two.label} has 6", say(found[0].found))
        self.assertNotIn(f"{one.label} has", say(found[0].found))

    def test_parts_that_do_not_fit_one_another_are_told(self) -> None:
        column = replace(self.TWO[1], misfits=("the graphics card is 310 mm long, and the case has room for 240 mm",))
        self.assertEqual(self.codes(plan([self.TWO[0], column])), ["misfit"])

    def test_enough_passes_for_the_noise_are_not_told(self) -> None:
        quiet = PlannedTest(1, "Reef Walk 2", noise=Noise(0.004, 20, "borrowed"))
        self.assertEqual(self.codes(plan(self.TWO, tests=[quiet])), [])
        wild = PlannedTest(1, "Reef Walk 2", noise=Noise(0.5, 20, "borrowed"))
        (point,) = check_plan(plan(self.TWO, tests=[wild]))
        self.assertEqual(point.mend, "margin")

    def test_columns_prices_and_the_return_are_told(self) -> None:
        blocked = replace(
            self.TWO[1], blocked="the card is longer than the case", mistakes=("one channel of 2 in use",)
        )
        points = self.codes(plan([self.TWO[0], blocked], asks_price=True, returns_to_baseline=False))
        self.assertEqual(points, ["blocked", "price", "slots", "price", "return"])

    def test_factors_that_move_together_are_confounded_and_a_grid_is_not(self) -> None:
        factors = [PlannedFactor(key, key, ("0", "1")) for key in ("door", "filter")]
        grid = [{"door": a, "filter": b} for a in "01" for b in "01"]
        self.assertEqual(confounded(factors, grid), [])
        self.assertEqual(confounded(factors, [grid[0], grid[3]]), [("door", "filter")])
        self.assertEqual(confounded(factors, grid[:3]), [])
        self.assertEqual(confounded(factors, []), [])

    @given(st.integers(2, 4), st.integers(2, 3))
    def test_a_full_grid_separates_and_its_diagonal_does_not(self, first: int, second: int) -> None:
        factors = [
            PlannedFactor("a", "a", tuple(str(i) for i in range(first))),
            PlannedFactor("b", "b", tuple(str(i) for i in range(second))),
        ]
        grid = [{"a": str(i), "b": str(j)} for i in range(first) for j in range(second)]
        self.assertEqual(confounded(factors, grid), [])
        diagonal = [{"a": str(i), "b": str(min(i, second - 1))} for i in range(first)]
        self.assertEqual(confounded(factors, diagonal), [("a", "b")])
