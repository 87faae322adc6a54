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
