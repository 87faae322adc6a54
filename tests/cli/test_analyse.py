"""`nomothet analyse`: every kind answers on plain data, and bad data is told by its place."""

import json
import unittest
from typing import Any

import numpy as np

from nomothet.core.errors import MethodError
from nomothet.formats.analyses import KINDS, analyse
from nomothet.formats.errors import FormatError
from tests.cli.base import CommandLine


def recording() -> dict[str, Any]:
    """A minute in which heat takes hold after 30 s."""
    t = [at / 2 for at in range(120)]
    late = [at >= 30 for at in t]
    return {
        "frame_times_ms": [10.0] * 3000 + [12.5] * 2400,
        "sensors": [
            {"name": "clock", "unit": "MHz", "t_s": t, "values": [3600 if is_late else 4600 for is_late in late]},
            {"name": "temperature", "unit": "°C", "t_s": t, "values": [min(95, 65 + at) for at in t]},
            {"name": "busiest core", "unit": "%", "t_s": t, "values": [99] * 119 + [None], "capacity": 100},
            {"name": "processor use", "unit": "%", "t_s": t, "values": [35] * 120, "capacity": 100},
            {"name": "memory used", "unit": "GB", "t_s": t, "values": [6.0] * 120, "capacity": 8},
        ],
        "declared": {"temperature_c": 95},
    }


class Answers(unittest.TestCase):
    def test_passes(self) -> None:
        answer = analyse("passes", {"values": [94.1, 93.9, 94.0, 94.2, 89.0]})
        self.assertEqual(answer["flags"]["odd"], [4])
        self.assertEqual(answer["summary"]["n"], 5)

    def test_limits_and_sustained_of_a_recording(self) -> None:
        limits = analyse("limits", recording())
        self.assertAlmostEqual(limits["shares"]["heat"], 0.5, delta=0.02)
        trend = analyse("sustained", recording())
        self.assertEqual((trend["cause"], trend["first_drop_s"]), ("temperature", 30))
        self.assertAlmostEqual(trend["drop_pct"], 20, delta=0.5)

    def test_overhead_is_the_worked_example(self) -> None:
        answer = analyse("overhead", {"tests": {"walk": {"off": [940], "on": [868]}}})
        self.assertAlmostEqual(answer["tests"]["walk"]["k"], 0.9234, places=4)
        self.assertIsNone(answer["k"])
        self.assertIn("fewer than 3 pairs", answer["refused"])

    def test_memory_by_arithmetic_and_by_a_recording(self) -> None:
        answer = analyse("memory", {"rate_mts": 5600, "channels": 2, "cas": 36, "reading": 2800})
        self.assertAlmostEqual(answer["peak_gbs"], 89.6)
        self.assertAlmostEqual(answer["first_word_ns"], 12.857, places=3)
        self.assertTrue(answer["observed"]["halved"])
        uses = analyse("memory", recording())["uses"]
        self.assertEqual(uses["memory used"]["headroom_pct"], 25)

    def test_comparable_and_enough(self) -> None:
        answer = analyse("comparable", {"a": {"version": "3"}, "b": {"version": "4"}})
        self.assertEqual(answer["verdict"], "blocked")
        found = analyse("enough", {"tests": {"walk": {"values": [1, 6.1], "capacity": 8}}, "sizes": [4, 8, 16]})
        self.assertEqual((found["size"], found["leading"]), (8, "walk"))

    def test_search_is_the_worked_example(self) -> None:
        plan = {"start": 50, "growth": 1.5, "resolution": 5}
        tried = [{"load": load, "holds": load <= 87} for load in (50, 75, 112, 93, 84, 88)]
        answer = analyse("search", {"plan": plan, "attempts": tried})
        self.assertEqual(answer["result"]["cold"], {"held": 84, "broken": 88})
        self.assertEqual(answer["next"]["load"], 84)

    def test_answers_are_plain_json(self) -> None:
        for kind, data in (("limits", recording()), ("passes", {"values": [1.0]})):
            json.dumps(analyse(kind, data), allow_nan=False)

    def test_an_array_is_no_question(self) -> None:
        self.assertEqual(json.loads(json.dumps(analyse("passes", {"values": [1, 2]})))["summary"]["n"], 2)
        self.assertIsNone(analyse("passes", {"values": [np.float64(3.0).item()]})["summary"]["spread"])


class Refusals(unittest.TestCase):
    def test_each_names_its_place(self) -> None:
        cases: list[tuple[str, object, str]] = [
            ("passes", [], "must hold an object"),
            ("passes", {"values": [1, "x"]}, '"values", entry 2'),
            ("passes", {"values": [1], "scale": "log"}, '"scale"'),
            ("limits", {}, "nothing to look at"),
            ("limits", {"sensors": [{"name": "clock", "unit": "MHz", "t_s": [1], "values": []}]}, "entry 1"),
            ("limits", {"sensors": [5]}, "entry 1"),
            ("sustained", {"frame_times_ms": [10, 10]}, "ten seconds"),
            ("overhead", {"tests": {"walk": {"off": [1]}}}, "'walk'"),
            ("passes", {"values": [1, None]}, '"values", entry 2'),
            ("passes", {"values": [1, True]}, '"values", entry 2'),
            ("passes", {"values": [1, 0]}, '"values"'),
            ("passes", {"values": [1, float("inf")]}, "entry 2"),
            ("passes", {"values": []}, "centre"),
            ("passes", {"values": [1], "borrowed_sd": 0}, '"borrowed_sd"'),
            ("passes", {"values": [1], "value": 2}, "`value`"),
            ("passes", {"values": [1], "others": [[2], [-1]]}, '"others", entry 2'),
            ("limits", {"frame_times_ms": [10] * 50, "declared": {"caps": 1}}, '"declared"'),
            ("limits", {"frame_times_ms": [10] * 50, "declared": {"cap_fps": 0}}, '"cap_fps"'),
            ("limits", {"frame_times_ms": [10] * 50, "from_s": 3, "to_s": 2}, '"to_s"'),
            ("limits", {"frame_times_ms": None}, '"frame_times_ms"'),
            (
                "limits",
                {"sensors": [{"name": "clock", "unit": "MHz", "t_s": [2, 1], "values": [1, 2]}]},
                "the time goes back",
            ),
            ("limits", {"sensors": [{"name": "clock", "unit": "V", "t_s": [1], "values": [1]}]}, "is not read in V"),
            ("overhead", {"tests": {"walk": {"off": [1, -1], "on": [1, 1]}}}, '"off", entry 2'),
            ("overhead", {"tests": {"walk": {"off": [1], "on": [1], "direction": "up"}}}, '"direction"'),
            ("overhead", {"tests": {"walk": {"off": [1, 2], "on": [1]}}}, "make no pairs"),
            ("overhead", {"tests": {}}, "pair of passes"),
            ("memory", {"rate_mts": 0}, '"rate_mts"'),
            ("memory", {"rate_mts": 5600, "channels": 1.5}, '"channels"'),
            ("memory", {"rate_mts": 5600, "channels": -1}, '"channels"'),
            ("memory", {"rate_mts": 5600, "reading": None}, '"reading"'),
            ("memory", {"channels": 2}, "`rate_mts`"),
            ("comparable", {"a": {"ambient_c": "warm"}, "b": {"ambient_c": 21}}, "'ambient_c'"),
            ("comparable", {"a": {"driver": {"x": 1}}, "b": {}}, "'driver'"),
            ("comparable", {"a": {}, "b": {}, "accepted": {"driver": 1}}, '"accepted"'),
            ("enough", {"tests": {"walk": {"values": [1], "capacity": 0}}, "sizes": [4]}, "'walk', \"capacity\""),
            ("enough", {"tests": {"walk": {"values": [-1]}}, "sizes": [4]}, "'walk'"),
            ("enough", {"tests": {"walk": {"values": [None]}}, "sizes": [4]}, "'walk'"),
            ("enough", {"tests": {"walk": {"values": [1]}}, "sizes": [0]}, '"sizes"'),
            ("enough", {"tests": {"walk": {"values": [1]}}, "sizes": [4], "reserve": -1}, '"reserve"'),
            ("search", {"plan": {"start": 1}, "attempts": [{"load": 0, "holds": True}]}, "entry 1"),
            ("search", {"plan": {"start": 1}, "attempts": [{"load": 1.5, "holds": True}]}, "whole number"),
            ("search", {"plan": {"start": 1}, "attempts": [{"load": 1, "holds": 1}]}, '"holds"'),
            ("search", {"plan": {"start": 1, "soak": 9}, "attempts": []}, "`soak`"),
            ("search", {"plan": {"start": 1, "growth": 1}}, "grow"),
            ("memory", {"rate_mts": 5600, "channels": 2, "cas": "x"}, '"cas"'),
            ("comparable", {"a": {}}, "`b`"),
            ("enough", {"tests": {}, "sizes": "x"}, '"sizes"'),
            ("search", {"plan": {"start": 1}, "attempts": [{"load": 1}]}, '"attempts"'),
            ("horoscope", {}, "horoscope"),
        ]
        for kind, data, place in cases:
            with self.subTest(kind=kind, place=place), self.assertRaises((FormatError, MethodError)) as caught:
                analyse(kind, data)
            self.assertIn(place, str(caught.exception))


class Terminal(CommandLine):
    def test_a_file_is_answered_and_a_broken_one_told(self) -> None:
        good, bad = self.file("good.json", '{"values": [60, 61, 60.5]}'), self.file("bad.json", '{"values": [60,\n 61')
        done = self.run_command("analyse", "passes", good)
        self.assertEqual((done.returncode, json.loads(done.stdout)["summary"]["n"]), (0, 3))
        done = self.run_command("analyse", "passes", bad)
        self.assertEqual(done.returncode, 2)
        self.assertIn("line 2", done.stderr)

    def test_what_json_does_not_know_is_told(self) -> None:
        cases = (
            ('{"values": [1, NaN]}', "NaN"),
            ('{"values": [1], "values": [2]}', "twice"),
            ('{"values": [1e999]}', "finite"),
            ("[" * 100_000, "nested"),
        )
        for at, (text, words) in enumerate(cases):
            done = self.run_command("analyse", "passes", self.file(f"{at}.json", text))
            with self.subTest(text=text[:30]):
                self.assertEqual(done.returncode, 2)
                self.assertIn(words, done.stderr)

    def test_help_names_every_kind(self) -> None:
        said = self.run_command("analyse", "--help").stdout
        for kind in KINDS:
            self.assertIn(kind, said)
