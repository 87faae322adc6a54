"""Sentences with their right answers, half of them held back while the rules were made."""

import csv
import unittest
from collections import Counter
from pathlib import Path

from nomothet.claims import check
from tests.claims.scenes import SCENES

_MARK = " {judgement}"
# Of the sentences, at least so many must be answered rightly.
WANTED = 0.9


def sentences(kind: str) -> list[tuple[str, str, str]]:
    with (Path(__file__).parent / "sentences.tsv").open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file, delimiter="\t", quoting=csv.QUOTE_NONE))
    return [(row["scene"], row["answer"], row["sentence"]) for row in rows if row["set"] == kind]


def answered(kind: str) -> list[tuple[str, str, str]]:
    """The right answer, the given one, and the sentence."""
    return [
        (answer, check(text.removesuffix(_MARK), SCENES[scene], judged=text.endswith(_MARK)).status, text)
        for scene, answer, text in sentences(kind)
    ]


class Sentences(unittest.TestCase):
    def test_nine_in_ten_are_answered_rightly(self) -> None:
        for kind in ("made", "held"):
            with self.subTest(kind):
                found = answered(kind)
                self.assertGreaterEqual(len(found), 75)
                wrong = [one for one in found if one[0] != one[1]]
                told = "\n".join(f"{right} / {given}: {text}" for right, given, text in wrong)
                self.assertLessEqual(len(wrong), (1 - WANTED) * len(found), told)

    def test_no_contradiction_is_called_backed(self) -> None:
        for kind in ("made", "held"):
            called = [text for right, given, text in answered(kind) if (right, given) == ("contradicted", "backed")]
            self.assertEqual(called, [], kind)

    def test_every_answer_is_among_the_sentences(self) -> None:
        counted = Counter(answer for kind in ("made", "held") for _, answer, _ in sentences(kind))
        self.assertGreaterEqual(min(counted.values()), 4)
        self.assertEqual(len(counted), 7)


class OnTheWay(unittest.TestCase):
    """Sentences that were met later; what they stand for is told by their names."""

    def status(self, scene: str, text: str) -> str:
        return check(text, SCENES[scene]).status

    def test_more_of_something_else_is_no_figure(self) -> None:
        self.assertEqual(self.status("cabinet", "Wren is behind Heron [2], for more money."), "backed")

    def test_a_clause_whose_finding_is_about_something_else_is_read_by_itself(self) -> None:
        text = "28 W costs 1.9 % [1], and the clock drops after 44 s [3]."
        self.assertEqual(self.status("dome", text), "backed")

    def test_a_number_that_the_named_finding_tells_is_no_level(self) -> None:
        self.assertEqual(self.status("dome", "The Lamp Test draws 38.4 W [6]."), "backed")

    def test_a_label_is_known_as_people_write_it(self) -> None:
        for text in (
            "The 20-watt setting is 9.1 % slower [5].",
            "20 watts is 9.1 % slower [5].",
            "20W is 9.1 % slower [5].",
        ):
            with self.subTest(text):
                self.assertEqual(self.status("dome", text), "backed")
                self.assertEqual(self.status("dome", text.replace("slower", "faster")), "contradicted")

    def test_a_word_such_as_lower_says_nothing_by_itself(self) -> None:
        self.assertEqual(self.status("dome", "The firmware does not go lower."), "nothing")

    def test_long_rows_of_digits_and_words_are_read_and_odd_marks_are_no_findings(self) -> None:
        for text in ("9" * 2000, "more than " * 200, "28 W, and " * 190, "[" * 2000, "28 W costs 9 % [0] [9999]."):
            with self.subTest(text[:20]):
                self.assertNotEqual(self.status("dome", text), "backed")
