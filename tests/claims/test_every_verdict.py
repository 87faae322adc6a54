"""Sentences of direction against every verdict that the method knows, with the truth written down beside them."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from nomothet.claims import check
from nomothet.claims.facts import Configuration, Facts, Found, MeasuredTest, Statement
from nomothet.core.compare import verdict_of

STOCK, TUNED, TOUR = 1, 2, 11
MARGIN_PCT = 3.0
# Words, the metric's role, whether more is better, and whether they say that the tuned one's value is more.
SAID = [
    ("Tuned is faster than stock in the Tour [1].", "average", 1, True),
    ("Tuned is slower than stock in the Tour [1].", "average", 1, False),
    ("Stock is slower than tuned in the Tour [1].", "average", 1, True),
    ("In the Tour tuned draws more power than stock [1].", "power", -1, True),
    ("In the Tour tuned draws less power than stock [1].", "power", -1, False),
    ("In the Tour tuned is quieter than stock [1].", "noise", -1, False),
    ("In the Tour tuned is louder than stock [1].", "noise", -1, True),
]


def facts(change: float, half: float, role: str, better: int, verdict: str) -> Facts:
    one = Statement(
        TUNED, STOCK, TOUR, role, change, change - half, change + half, verdict, better,
        unsettled=verdict if verdict == "undecided" else "",
    )  # fmt: skip
    return Facts(
        (Configuration(STOCK, "stock", "A", "Wren", is_baseline=True), Configuration(TUNED, "tuned", "B", "Wren")),
        (MeasuredTest(TOUR, "Tour"),),
        statements=(one,),
        findings=(Found(1, "versus", (STOCK, TUNED), (TOUR,), "what was found", statements=(one,)),),
        margin_pct=MARGIN_PCT,
    )


class EveryVerdict(unittest.TestCase):
    @given(st.floats(-30, 30), st.floats(0.1, 10), st.sampled_from(SAID))
    def test_a_word_of_direction_is_answered_by_the_sign_of_what_is_told_apart(
        self, change: float, half: float, said: tuple[str, str, int, bool]
    ) -> None:
        text, role, better, says_more = said
        low, high = sorted((better * (change - half), better * (change + half)))
        verdict = verdict_of(low, high, MARGIN_PCT)
        if verdict == "undecided":
            wanted = "unsettled"
        elif verdict == "level":
            wanted = "contradicted"
        else:
            wanted = "backed" if (change > 0) == says_more else "contradicted"
        self.assertEqual(check(text, facts(change, half, role, better, verdict)).status, wanted, verdict)

    @given(st.floats(4.5, 60), st.floats(0.1, 1.4), st.booleans(), st.integers(3, 40))
    def test_an_amount_is_backed_within_the_interval_and_contradicted_beyond(
        self, size: float, half: float, more: bool, beyond: int
    ) -> None:
        change = size if more else -size
        known = facts(change, half, "average", 1, "ahead" if more else "behind")
        word, other = ("faster", "slower") if more else ("slower", "faster")
        for text, wanted in (
            (f"Tuned is {size:.1f} % {word} than stock in the Tour [1].", "backed"),
            (f"Tuned is {size + half + beyond:.1f} % {word} than stock in the Tour [1].", "contradicted"),
            (f"Tuned is {size:.1f} % {other} than stock in the Tour [1].", "contradicted"),
            (f"Tuned is not {word} than stock in the Tour [1].", "contradicted"),
            (f"Tuned is {size:.1f} % {word} than stock in the Tour.", "sourceless"),
        ):
            with self.subTest(text):
                self.assertEqual(check(text, known).status, wanted)

    def test_a_label_is_known_at_the_beginning_of_a_sentence(self) -> None:
        known = facts(9.0, 1.0, "average", 1, "ahead")
        for text in ("Tuned is faster than stock", "Stock is slower than tuned", "stock is slower than Tuned"):
            with self.subTest(text):
                self.assertEqual(check(f"{text} [1].", known).status, "backed")
        named_off = replace(
            known, configurations=(replace(known.configurations[0], label="Off"), known.configurations[1])
        )
        self.assertEqual(check("Tuned is faster [1] with the covers off.", named_off).status, "backed")
        self.assertEqual(check("Off is faster than tuned [1].", named_off).status, "contradicted")

    def test_a_metric_of_which_neither_is_better_has_more_and_less_all_the_same(self) -> None:
        known = facts(12.0, 1.0, "power", 0, "differs")
        self.assertEqual(check("In the Tour tuned draws more power than stock [1].", known).status, "backed")
        self.assertEqual(check("In the Tour tuned draws less power than stock [1].", known).status, "contradicted")

    def test_a_metric_without_a_margin_is_told_by_its_interval(self) -> None:
        for change, half, wanted in ((12.0, 1.0, "backed"), (-12.0, 1.0, "contradicted"), (1.0, 4.0, "unsettled")):
            with self.subTest(change):
                known = facts(change, half, "power", -1, "no margin")
                self.assertEqual(check("In the Tour tuned draws more power than stock [1].", known).status, wanted)

    def test_what_is_open_is_named_with_what_it_rests_on(self) -> None:
        known = facts(1.0, 9.0, "average", 1, "undecided")
        found = check("Tuned is faster than stock in the Tour [1].", known)
        self.assertEqual((found.open, found.open_findings), (known.statements, (1,)))
