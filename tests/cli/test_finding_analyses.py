"""`nomothet analyse` on several cells or tests at once, and `nomothet compare` with rounds and sessions."""

import copy
import json
import math
import unittest
from typing import Any

from nomothet.core.errors import MethodError
from nomothet.formats.analyses import analyse
from nomothet.formats.errors import FormatError
from nomothet.formats.finding_analyses import FINDING_KINDS
from tests.cli.base import CommandLine

GOOD: dict[str, dict[str, Any]] = {
    "overall": {
        "baseline": "A",
        "tests": {
            "x": {"cells": {"A": [100, 100], "B": [121, 121]}},
            "y": {"direction": "lower", "cells": {"A": [10, 10], "B": [10, 10]}},
        },
    },
    "sweep": {
        "levels": [
            {"level": level, "values": values}
            for level, values in ((1, [100, 100.5]), (2, [150, 150.5]), (3, [160, 160.5]), (4, [161, 161.5]))
        ]
    },
    "chain": {
        "steps": [
            {"name": "stock", "values": [100, 102, 98]},
            {"name": "memory", "values": [110, 111, 109]},
            {"name": "both", "values": [121, 122, 120]},
        ]
    },
    "grid": {
        "factors": ["a", "b"],
        "cells": [
            {"levels": levels, "values": [value, value]}
            for levels, value in (([0, 0], 100), ([1, 0], 110), ([0, 1], 100), ([1, 1], 121))
        ],
    },
    "scaling": {"points": [{"n": n, "values": [1 / (0.1 + 0.9 / n)]} for n in (1, 2, 4, 8)]},
    "crossover": {"sizes": [{"size": 64, "a": [100], "b": [90]}, {"size": 256, "a": [90], "b": [100]}]},
    "economy": {"power": {"t_s": [0, 1, 2], "values": [10, 20, 10]}, "from_s": 0, "to_s": 2, "rate": 30},
    "frontier": {
        "configurations": {
            "A": {"price": 100, "values": [50, 50.1]},
            "B": {"price": 90, "values": [60, 60.1]},
            "C": {"price": 200, "values": [60, 60.05]},
        }
    },
    "target": {"fps": 60, "averages": [75, 76, 74], "lows": [59, 62, 64]},
    "forecast": {"seconds": 727, "done": 30, "whole": 120},
}


class WorkedExamples(unittest.TestCase):
    """The examples of the method, to the last digit that it gives."""

    def test_overall(self) -> None:
        found = analyse("overall", GOOD["overall"])["configurations"]["B"]
        self.assertAlmostEqual(found["ratio"], 1.1, places=12)
        self.assertEqual((found["best"], found["worst"], found["tests"]), ("x", "y", 2))

    def test_sweep(self) -> None:
        found = analyse("sweep", GOOD["sweep"])
        self.assertEqual((found["best"], found["enough"], found["tapering_at"], found["knee"]["level"]), (4, 3, 4, 2))
        self.assertIsNone(found["levels"][0]["gain"])

    def test_chain(self) -> None:
        found = analyse("chain", GOOD["chain"])
        product = math.prod(one["step"]["ratio"] for one in found["steps"])
        self.assertAlmostEqual(found["end_to_end"]["ratio"], product, places=12)
        self.assertEqual(found["end_to_end"]["verdict"], "ahead")

    def test_grid(self) -> None:
        effects = analyse("grid", GOOD["grid"])["effects"]
        wanted = {"a": math.sqrt(1.1 * 1.21), "b": math.sqrt(1.1), "a × b": 1.1}
        for name, ratio in wanted.items():
            self.assertAlmostEqual(effects[name]["ratio"], ratio, places=12)

    def test_scaling_and_crossover(self) -> None:
        self.assertAlmostEqual(analyse("scaling", GOOD["scaling"])["amdahl"]["p"], 0.9, places=8)
        (crossing,) = analyse("crossover", GOOD["crossover"])["crossings"]
        self.assertAlmostEqual(crossing["size"], 128, places=9)
        self.assertEqual((crossing["ahead_above"], crossing["low"]), ("b", None))

    def test_economy_and_its_keys_only_where_asked(self) -> None:
        found = analyse("economy", GOOD["economy"])
        self.assertEqual((found["energy_j"], found["mean_w"], found["work_per_joule"]), (30, 15, 2))
        self.assertFalse({"mean_w_over_idle", "price_per_work"} & set(found))
        more = analyse("economy", {**GOOD["economy"], "idle_w": 18, "price": 60})
        self.assertEqual((more["mean_w_over_idle"], more["price_per_work"]), (-3, 2))
        hole = analyse("economy", {"power": {"t_s": [0, 1, 2, 50], "values": [1, 1, 1, 1]}, "to_s": 50})
        self.assertEqual((hole["energy_j"], hole["reason"]), (None, "not recorded"))

    def test_frontier_target_and_forecast(self) -> None:
        found = analyse("frontier", GOOD["frontier"])
        self.assertEqual((found["frontier"], found["beaten_by"]), (["B", "C"], {"A": ["B"]}))
        self.assertEqual(analyse("target", GOOD["target"])["result"], "average only")
        self.assertEqual(analyse("forecast", GOOD["forecast"])["forecast_s"], 2908)


def spoiled(data: Any) -> list[tuple[str, Any]]:
    """The data with one thing wrong each: every number as text, −1 or of no size, every object with a strange key."""
    found: list[tuple[str, Any]] = []

    def walk(node: Any, path: tuple[Any, ...]) -> None:
        if isinstance(node, dict):
            found.append((f"{path} strange", put(path, {**node, "strange": 1})))
        children = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ()
        for key, child in children:
            walk(child, (*path, key))
        if isinstance(node, list) and node and all(isinstance(one, int | float) for one in node) and "t_s" not in path:
            found.append((f"{path} empty", put(path, [])))
        if isinstance(node, int | float):
            found.extend((f"{path} {bad!r}", put(path, bad)) for bad in ("1", -1, 1e300, 1e-300, 10**400))

    def put(path: tuple[Any, ...], value: Any) -> Any:
        if not path:
            return value
        whole = copy.deepcopy(data)
        at = whole
        for key in path[:-1]:
            at = at[key]
        at[path[-1]] = value
        return whole

    walk(data, ())
    return found


class Refusals(CommandLine):
    def test_whatever_is_wrong_is_refused_by_its_place(self) -> None:
        for kind, data in GOOD.items():
            for what, bad in spoiled(data):
                # Names of tests, cells and configurations are free.
                free = "strange" in what and any(name in what for name in ("tests')", "cells')", "configurations')"))
                with self.subTest(kind=kind, what=what):
                    # A level may be below 0, and lows that were not recorded are an empty list.
                    if free or "t_s" in what or "'level') -1" in what or what == "('lows',) empty":
                        continue
                    with self.assertRaises((FormatError, MethodError)):
                        analyse(kind, bad)

    def test_what_makes_no_sense_as_a_whole_is_refused_with_status_2(self) -> None:
        for kind, changes, words in (
            ("overall", {"baseline": "Z"}, "baseline"),
            ("overall", {"margin": 0}, "margin"),
            ("sweep", {"levels": GOOD["sweep"]["levels"][:1]}, "two levels"),
            ("sweep", {"levels": [GOOD["sweep"]["levels"][0]] * 2}, "twice"),
            ("chain", {"steps": GOOD["chain"]["steps"][:1]}, "one step"),
            ("grid", {"cells": GOOD["grid"]["cells"][:3]}, "not enough data"),
            ("grid", {"cells": [*GOOD["grid"]["cells"], GOOD["grid"]["cells"][0]]}, "twice"),
            ("grid", {"factors": ["a"]}, "1 factors"),
            ("scaling", {"points": GOOD["scaling"]["points"][1:]}, "n = 1"),
            ("crossover", {"sizes": GOOD["crossover"]["sizes"][:1]}, "two sizes"),
            ("economy", {"to_s": 1, "from_s": 1}, "window"),
            ("economy", {"power": {"t_s": [0, 0], "values": [1, 1]}}, "does not go on"),
            ("economy", {"power": {"t_s": [0], "values": [1, 1]}}, "do not go together"),
            ("forecast", {"done": 121}, "no part"),
        ):
            with self.subTest(kind=kind, words=words):
                done = self.run_command("analyse", kind, self.file("q.json", json.dumps({**GOOD[kind], **changes})))
                self.assertEqual((done.returncode, done.stdout), (2, ""))
                self.assertIn(words, done.stderr)
                self.assertNotIn("Traceback", done.stderr)

    def test_every_kind_has_an_example_that_is_answered(self) -> None:
        self.assertEqual(set(GOOD), set(FINDING_KINDS))
        for kind, data in GOOD.items():
            done = self.run_command("analyse", kind, self.file("q.json", json.dumps(data)))
            self.assertEqual(done.returncode, 0, done.stderr)
            json.loads(done.stdout)


class Placed(CommandLine):
    def compare(self, cells: dict[str, list[Any]]) -> dict[str, Any]:
        done = self.run_command("compare", self.file("q.json", json.dumps({"baseline": "A", "cells": cells})))
        self.assertEqual(done.returncode, 0, done.stderr)
        found: dict[str, Any] = json.loads(done.stdout)
        return found

    def test_rounds_take_a_drift_out(self) -> None:
        drift = [100 * math.exp(0.05 * at) for at in range(5)]
        shake = [1.001, 0.999, 1.0, 1.001, 0.999]
        a = [{"value": value, "round": at} for at, value in enumerate(drift)]
        b = [{"value": 1.05 * value * shake[at], "round": at} for at, value in enumerate(drift)]
        found = self.compare({"A": a, "B": b})["B"]
        self.assertEqual((found["by"], found["verdict"], found["df"]), ("rounds", "ahead", 4))
        plain = self.compare({"A": drift, "B": [one["value"] for one in b]})["B"]
        self.assertEqual((plain["by"], plain["verdict"]), ("passes", "undecided"))

    def test_sessions_are_compared_by_their_means(self) -> None:
        a = [{"value": value, "session": name} for name, value in (("m", 100), ("m", 101), ("t", 104), ("w", 97))]
        b = [{"value": value, "session": name} for name, value in (("m", 111), ("t", 108), ("t", 109))]
        found = self.compare({"A": a, "B": b})["B"]
        self.assertEqual((found["by"], found["df"]), ("sessions", 3))
        means = {"A": [math.sqrt(100 * 101), 104, 97], "B": [111, math.sqrt(108 * 109)]}
        wanted = math.prod(means["B"]) ** (1 / 2) / math.prod(means["A"]) ** (1 / 3)
        self.assertAlmostEqual(found["ratio"], wanted, places=9)

    def test_numbers_and_objects_may_stand_together_and_a_strange_key_is_refused(self) -> None:
        self.assertEqual(self.compare({"A": [1, {"value": 1.1}], "B": [2, 2.1]})["B"]["by"], "passes")
        for bad in ({"value": 1, "day": 2}, {"round": 1}, "1", None, {"value": "1"}):
            body = json.dumps({"baseline": "A", "cells": {"A": [bad], "B": [2]}})
            done = self.run_command("compare", self.file("q.json", body))
            self.assertEqual(done.returncode, 2)
            self.assertIn("'A', entry 1", done.stderr)
