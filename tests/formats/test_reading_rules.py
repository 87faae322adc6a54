"""Reading rules over text, JSON and tables."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.formats.reading_rules import MOST_SAMPLE, BadRule, Rule, apply_rule, number_in

FPS = Rule("text", r"average (?P<average_fps>[0-9.,]+) fps, low (?P<low>[0-9.,]+)")


class Text(unittest.TestCase):
    def test_each_named_group_is_a_metric(self) -> None:
        found = apply_rule(FPS, "run 1: average 61.5 fps, low 40\nrun 2: average 60 fps, low 39,5\n")
        self.assertEqual([(one.metric, one.value) for one in found],
                         [("average_fps", 61.5), ("low", 40), ("average_fps", 60), ("low", 39.5)])  # fmt: skip

    @given(st.text(max_size=40), st.integers(0, 999), st.text(max_size=40))
    def test_places_are_those_of_the_text_as_given(self, before: str, number: int, after: str) -> None:
        sample = f"{before}<<{number}>>{after}"
        found = apply_rule(Rule("text", r"<<(?P<n>\d+)>>"), sample)
        self.assertIn(str(number), [sample[one.start : one.end] for one in found])
        for one in found:
            self.assertEqual(sample[one.start : one.end], one.text)

    def test_an_evil_expression_takes_no_exponential_time(self) -> None:
        # A backtracking engine would need longer than the age of the universe for this one.
        found = apply_rule(Rule("text", r"(?P<x>(a+)+)$"), "a" * 5000 + "b")
        self.assertEqual(found, [])

    def test_what_cannot_be_used_is_refused(self) -> None:
        for rule in (
            Rule("text", "("),
            Rule("text", "plain"),
            Rule("text", "  "),
            Rule("text", r"(?P<a>x)(?=y)"),
            Rule("json", "$.a"),
            Rule("json", "$[?", "m"),
            Rule("table", "a"),
        ):
            with self.subTest(rule=rule), self.assertRaises(BadRule):
                apply_rule(rule, "{}")
        with self.assertRaises(BadRule):
            apply_rule(FPS, "x" * (MOST_SAMPLE + 1))


class Json(unittest.TestCase):
    def test_a_path_finds_values(self) -> None:
        sample = json.dumps({"render": [{"seconds": 41.25}, {"seconds": 40}], "name": "lantern"})
        found = apply_rule(Rule("json", "$.render[*].seconds", "render_s"), sample)
        self.assertEqual([one.value for one in found], [41.25, 40])
        self.assertEqual(sample[found[0].start : found[0].end], "41.25")
        (name,) = apply_rule(Rule("json", "$.name", "x"), sample)
        self.assertEqual((name.text, name.value), ("lantern", None))

    def test_json_after_a_banner_is_found(self) -> None:
        sample = 'Loom 4 starts\n[note]\n{"warm": true}\n{"render": {"seconds": 7.5},\n "runs": [1, 2]}\ndone\n'
        (found,) = apply_rule(Rule("json", "$.render.seconds", "render_s"), sample)
        self.assertEqual(found.value, 7.5)

    def test_a_text_in_quotes_is_no_document_however_it_reads(self) -> None:
        for sample in ('"["', '"{\\"fps\\": 60}"', '"plain"'):
            with self.subTest(sample), self.assertRaisesRegex(BadRule, "one text in quotes"):
                apply_rule(Rule("json", "$.fps", "fps"), sample)

    def test_no_json_is_explained(self) -> None:
        for sample in ("seconds: 4", "[" * 100_000):
            with self.subTest(sample=sample[:10]), self.assertRaises(BadRule):
                apply_rule(Rule("json", "$.a", "m"), sample)


class Table(unittest.TestCase):
    def test_a_column_is_read_with_places(self) -> None:
        sample = "part;one thread;all threads\npack;12,5;80\nunpack;30;81\n"
        found = apply_rule(Rule("table", "one thread", "one_thread"), sample)
        self.assertEqual([one.value for one in found], [12.5, 30])
        self.assertEqual([sample[one.start : one.end] for one in found], ["12,5", "30"])

    def test_a_missing_column_is_named_with_those_there_are(self) -> None:
        with self.assertRaisesRegex(BadRule, "a, b"):
            apply_rule(Rule("table", "c", "m"), "a,b\n1,2\n")
        with self.assertRaises(BadRule):
            apply_rule(Rule("table", "c", "m"), "")


class Numbers(unittest.TestCase):
    def test_points_and_commas_are_read_and_words_are_not(self) -> None:
        self.assertEqual(number_in(" 1,5 "), 1.5)
        self.assertEqual(number_in("-2e3"), -2000)
        self.assertIsNone(number_in("12 fps"))
        self.assertIsNone(number_in(""))

    @given(st.floats(-1e9, 1e9, allow_nan=False))
    def test_every_plain_number_is_read(self, number: float) -> None:
        self.assertAlmostEqual(number_in(f"{number:.6f}") or 0.0, number, places=5)
