"""Every code that core and server can give has its sentence, and a sentence takes what the code gives."""

import inspect
import re
import unittest
from pathlib import Path

import nomothet
from nomothet.core.notes import note
from nomothet.words import CATALOGUE, say

_CALL = re.compile(r"\bnote\(\s*\"(\w+)\"((?:[^()]|\((?:[^()]|\([^()]*\))*\))*)\)")
_NAME = re.compile(r"(?:^|[,\s])(\w+)=")


def calls() -> list[tuple[str, set[str], str]]:
    """The codes that the sources give, with the names of their values."""
    found = []
    root = Path(nomothet.__file__).parent
    for file in sorted(root.rglob("*.py")):
        if "words" in file.parts or file.name == "notes.py":
            continue
        for code, values in _CALL.findall(file.read_text(encoding="utf-8")):
            found.append((code, set(_NAME.findall(values)), file.name))
    return found


class Codes(unittest.TestCase):
    def test_every_code_has_a_sentence_that_takes_its_values(self) -> None:
        self.assertGreater(len(calls()), 5)
        for code, values, file in calls():
            with self.subTest(code=code, file=file):
                self.assertIn(code, CATALOGUE)
                wanted = inspect.signature(CATALOGUE[code]).parameters
                self.assertLessEqual(values, set(wanted))
                needed = {name for name, one in wanted.items() if one.default is inspect.Parameter.empty}
                self.assertLessEqual(needed, values)

    def test_no_sentence_is_without_its_code(self) -> None:
        self.assertEqual(set(CATALOGUE) - {code for code, _, _ in calls()}, set())


class Evidence(unittest.TestCase):
    def test_what_was_seen_is_told_with_its_units(self) -> None:
        seen = note(
            "limit_seen",
            kind="graphics memory",
            means={"graphics memory used": 5.98, "graphics use": 41.4},
            capacities={"graphics memory used": 6.0},
            held_fps=None,
        )
        self.assertEqual(say(seen), "graphics memory used 6.0 of 6 GB, graphics use 41 %")
        capped = note("limit_seen", kind="rate cap", means={"graphics use": 50.0}, capacities={}, held_fps=60.0)
        self.assertEqual(say(capped), "held at 60 fps, graphics use 50 %")

    def test_why_a_clock_fell(self) -> None:
        values = {"burst_mhz": 4600.0, "mhz": 3600.0, "missing": []}
        self.assertIn("at 95 °C", say(note("clock_fell", why="hot", value=95.0, **values)))
        self.assertIn("at its limit, 35.0 W", say(note("clock_fell", why="at its limit", value=35.0, **values)))
        self.assertIn("paused", say(note("clock_fell", why="paused", value=None, **values)))
        missing = note("clock_fell", why="not recorded", value=None, burst_mhz=4600.0, mhz=3600.0, missing=["power"])
        self.assertTrue(say(missing).endswith("no power was recorded"))
