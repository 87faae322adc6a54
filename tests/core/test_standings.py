"""Standings (section 26): what may stand beside what, and what two results are to each other."""

import math
from dataclasses import replace
from typing import Any
from unittest import TestCase

from scipy import stats

from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.core.rounds import Placed
from nomothet.core.standings import Result, Standings, standings


def result(*values: float, sessions: str = "", **told: Any) -> Result:
    placed = [Placed(value, None, sessions[at] if sessions else None) for at, value in enumerate(values)]
    return Result(placed, {"workload": "w", "version": "1", "setting:size": 2, **told})


class Places(TestCase):
    def place(self, one: Result, base: Result | None = None) -> str:
        return standings({"a": base or result(100, 101), "b": one}, "a", margin=0.03)["b"].place

    def test_what_blocks_what_warns_and_what_is_only_noted(self) -> None:
        cases = [
            ({"version": "2"}, "not beside"),
            ({"setting:size": 3}, "not beside"),
            ({"driver": "2"}, "with a warning"),
            ({"background": "a scan"}, "beside"),
            ({}, "beside"),
        ]
        base = result(100, 101, driver="1", background="nothing")
        for told, place in cases:
            with self.subTest(told=told):
                self.assertEqual(self.place(result(110, 111, **told), base), place)

    def test_what_is_unknown_on_one_side_is_no_difference(self) -> None:
        self.assertEqual(self.place(result(110, 111, driver="2")), "beside")

    def test_what_a_configuration_chooses_may_differ(self) -> None:
        base = result(100, 101, power_limit_w=35, driver="1")
        varied = replace(result(110, 111, power_limit_w=20, driver="1"), varied=frozenset({"power_limit_w"}))
        self.assertEqual(self.place(varied, base), "beside")
        self.assertEqual(self.place(replace(varied, varied=frozenset()), base), "with a warning")

    def test_what_is_no_figure_of_its_kind_stands_beside_nothing(self) -> None:
        base = replace(result(100, 101), low_definition="percentile", power_source="power", held=60.0)
        alike = replace(result(110, 111), low_definition="percentile", power_source="power")
        self.assertEqual(self.place(alike, base), "beside")
        for other, code in (
            (replace(alike, low_definition="slowest_mean"), "standing_low"),
            (replace(alike, power_source="wall power"), "standing_power"),
            (replace(alike, held=60.3), "held_at"),
            (replace(alike, values=[]), "standing_no_pass"),
            (replace(alike, apart=(note("standing_remembered"),)), "standing_remembered"),
        ):
            with self.subTest(code):
                found = standings({"a": base, "b": other}, "a", margin=0.03)["b"]
                self.assertEqual((found.place, found.reasons[0].code), ("not beside", code))
                self.assertIsNone(found.comparison)
        self.assertEqual(self.place(replace(alike, held=72.0), base), "beside")

    def test_a_doubt_of_its_own_warns(self) -> None:
        found = standings(
            {"a": result(100, 101), "b": replace(result(110, 111), doubts=(note("x"),))}, "a", margin=0.03
        )["b"]
        self.assertEqual((found.place, found.reasons[0].code), ("with a warning", "x"))
        self.assertIsNotNone(found.comparison)

    def test_an_unknown_reference_is_refused(self) -> None:
        with self.assertRaises(BadSample):
            standings({"a": result(1.0)}, "b", margin=0.03)

    def test_against_a_reference_that_stands_beside_nothing_nothing_is_compared(self) -> None:
        base = replace(result(100, 101), apart=(note("standing_remembered"),))
        self.assertIsNone(standings({"a": base, "b": result(110, 111)}, "a", margin=0.03)["b"].comparison)


class Comparisons(TestCase):
    VALUES = {"a": (100.0, 102.0, 98.0), "b": (110.0, 111.0, 109.0), "c": (95.0, 96.0, 97.5), "d": (50.0, 80.0)}

    def test_the_noise_is_that_of_all_beside_and_the_level_sidaks_over_them(self) -> None:
        """Worked out here from the logs, by the formulas of section 3."""
        cells = {name: result(*values) for name, values in self.VALUES.items()}
        cells["c"] = replace(cells["c"], doubts=(note("x"),))
        cells["d"] = result(*self.VALUES["d"], version="2")
        found = standings(cells, "a", margin=0.03)
        logs = {name: [math.log(v) for v in self.VALUES[name]] for name in "abc"}
        means = {name: sum(y) / len(y) for name, y in logs.items()}
        squares = sum((v - means[name]) ** 2 for name, y in logs.items() for v in y)
        df = sum(len(y) - 1 for y in logs.values())
        level = 1 - (1 - 0.05) ** (1 / 2)
        half = stats.t.ppf(1 - level / 2, df) * math.sqrt(squares / df) * math.sqrt(1 / 3 + 1 / 3)
        for name in "bc":
            placed = found[name].comparison
            assert placed is not None
            assert placed.comparison.low is not None
            assert placed.comparison.high is not None
            d = means[name] - means["a"]
            self.assertAlmostEqual(placed.comparison.effect, math.exp(d))
            self.assertAlmostEqual(placed.comparison.low, math.exp(d - half))
            self.assertAlmostEqual(placed.comparison.high, math.exp(d + half))
        self.assertIsNone(found["d"].comparison)

    def test_those_that_are_asked_for_are_compared_by_the_noise_and_the_level_of_all(self) -> None:
        plain = {name: result(*values) for name, values in self.VALUES.items()}
        in_sessions = {
            name: result(*(100.0 + at, 101.0 + at, 102.0, 103.0), sessions="xxyy") for at, name in enumerate("abcd")
        }
        for cells in (plain, in_sessions):
            whole = standings(cells, "a", margin=0.03)
            found = Standings(cells, "a", direction="higher", scale="ratio", margin=0.03)
            self.assertEqual(found.of("c"), whole["c"])
            self.assertEqual(found.placed["b"], replace(whole["b"], comparison=None))

    def test_sessions_are_used_where_there_are_enough(self) -> None:
        many = {name: result(*(100.0 + at, 101.0 + at, 102.0, 103.0), sessions="xxyy") for at, name in enumerate("abc")}
        few = {name: result(100.0 + at, 101.0 + at, sessions="xx") for at, name in enumerate("ab")}
        by_sessions, plain = (standings(cells, "a", margin=0.03)["b"].comparison for cells in (many, few))
        assert by_sessions is not None
        assert plain is not None
        self.assertEqual((by_sessions.by, plain.by), ("sessions", "passes"))
        self.assertTrue(plain.one_session)
