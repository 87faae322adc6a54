"""Paths of people: what they find, and that none of them takes longer than its document is large."""

import json
import unittest

import jsonpath
from hypothesis import given
from hypothesis import strategies as st

from nomothet.formats.json_paths import LONGEST, BadPath, compile_path
from nomothet.formats.reading_rules import BadRule, Rule, apply_rule

DOCUMENT = {
    "runs": [
        {"name": "kelp tunnel", "fps": 61.5, "tags": ["a", "b"]},
        {"name": "open reef", "fps": 70, "tags": []},
        {"name": "kelp field", "fps": 58.25, "tags": ["b"]},
    ],
    "best": "open reef",
}


class Found(unittest.TestCase):
    def test_it_finds_what_the_standard_says(self) -> None:
        for expression, values in (
            ("$.runs[*].fps", [61.5, 70, 58.25]),
            ("$..fps", [61.5, 70, 58.25]),
            ("$.runs[?@.fps > 60].name", ["kelp tunnel", "open reef"]),
            ("$.runs[?@.name == $.best].fps", [70]),
            ("$.runs[?match(@.name, 'kelp .*')].fps", [61.5, 58.25]),
            ("$.runs[?search(@.name, 'reef$')].fps", [70]),
            ("$.runs[?count(@.tags[*]) > 1].fps", [61.5]),
            ("$.runs[?length(@.name) == 9].fps", [70]),
            ("$.runs[-1]['fps', 'name']", [58.25, "kelp field"]),
        ):
            with self.subTest(expression):
                self.assertEqual(compile_path(expression).findall(DOCUMENT), values)

    @given(
        st.recursive(
            st.integers() | st.text(max_size=3),
            lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.sampled_from("abc"), inner, max_size=3),
            max_leaves=20,
        ).filter(lambda document: not isinstance(document, str)),
        st.sampled_from(["$.*", "$..a", "$[*].b", "$[?@.a > 1]", "$..[?@.b]", "$[0:2]", "$.a[::-1]", "$['a','b']"]),
    )
    def test_it_agrees_with_a_plain_evaluation(self, document: object, expression: str) -> None:
        self.assertEqual(compile_path(expression).findall(document), jsonpath.findall(expression, document))

    def test_an_expression_that_re2_does_not_know_matches_nothing(self) -> None:
        for pattern in ("(", "(?=a)", "\\\\1"):
            with self.subTest(pattern):
                self.assertEqual(compile_path(f"$.runs[?match(@.name, '{pattern}')]").findall(DOCUMENT), [])


class Bounded(unittest.TestCase):
    def test_expressions_that_take_exponential_time_elsewhere_are_over_at_once(self) -> None:
        text = json.dumps([{"name": "a" * 60 + "!"}])
        for pattern in ("(a|aa)+$", "(a+)+$", "(a*)*b"):
            for function in ("match", "search"):
                with self.subTest(pattern=pattern, function=function):
                    rule = Rule("json", f"$[?{function}(@.name, '{pattern}')].name", "m")
                    self.assertEqual(apply_rule(rule, text), [])

    def test_paths_that_could_take_longer_than_the_document_is_large_are_refused(self) -> None:
        for expression in (
            "$..*..*",
            "$..[?@..x]",
            "$[?@..x]..y",
            "$[?@[?@.x]]",
            "$[?count($[*]) > 1]",
            "$[?@.a == $..b]",
            "$[?$.a[0:2]]",
            "$" + "[0,0]" * 7,
            "$" + "['a','a','b']" * 40,
            "$[" + ",".join(["0"] * 65) + "]",
            "$" + ".a" * LONGEST,
            "$[" + "(" * 400 + "@.a" + ")" * 400 + "]",
        ):
            with self.subTest(expression[:40]), self.assertRaises(BadPath):
                compile_path(expression)
            with self.subTest(expression[:40]), self.assertRaises(BadRule):
                apply_rule(Rule("json", expression, "m"), "{}")

    def test_what_is_no_path_says_so(self) -> None:
        for expression in ("", "runs", "$[", "$.a | $.b", "$.runs[?@.name =~ /kelp/]", "$.runs[?typeof(@) == 'x']"):
            with self.subTest(expression), self.assertRaises(BadPath):
                compile_path(expression)

    def test_of_many_places_the_first_are_told_and_what_holds_others_is_not_written_out(self) -> None:
        text = json.dumps([[number] for number in range(5000)])
        found = apply_rule(Rule("json", "$..*", "m"), text)
        self.assertEqual(len(found), 200)
        self.assertEqual((found[0].text, found[0].value), ("(list of 1)", None))

    def test_many_beginnings_that_lead_nowhere_are_not_all_read(self) -> None:
        rule = Rule("json", "$.a", "m")
        with self.assertRaises(BadRule):
            apply_rule(rule, ("[1," * 30 + "\n") * 5000)
        self.assertEqual(apply_rule(rule, "[note]\n" * 20 + '{"a": 4}\n')[0].value, 4)
