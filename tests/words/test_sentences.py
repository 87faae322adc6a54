"""What sentences say: amounts, directions, plurals and remedies, against what a reader should be told."""

import unittest
from dataclasses import replace
from typing import Any

from nomothet.core.compare import Comparison, compare_with_baseline
from nomothet.core.compare_placed import PlacedComparison
from nomothet.core.docket_order import Cost
from nomothet.core.load_search import Bracket
from nomothet.core.memory import Module, Slot, SlotMap, SpeedLimit, populate
from nomothet.core.noise import Noise
from nomothet.core.notes import note
from nomothet.core.plan_check import Point
from nomothet.words import comparisons, plan, say, say_stored, says
from nomothet.words.lists import and_list, numbers_of
from nomothet.words.numbers import MINUS, figure, signed, with_unit
from nomothet.words.searches import bracket_words
from nomothet.words.slots import slot_remedy, slot_words

COMPARISON = Comparison(
    effect=1.1, low=1.05, high=1.15, change=1.1, change_low=1.05, change_high=1.15, verdict="ahead",
    noise=Noise(0.01, 4, "pooled"), n=3, n_baseline=5, level=0.05, passes_needed=None,
)  # fmt: skip


def told(**changes: Any) -> Comparison:
    return replace(COMPARISON, **changes)


class Numbers(unittest.TestCase):
    def test_three_figures_and_a_true_minus(self) -> None:
        for value, words in (
            (0, "0"), (0.5, "0.500"), (9.999, "10.00"), (99.95, "100.0"), (1234.5, "1234"), (-65.0, f"{MINUS}65.0"),
            (0.000123456, "0.000123"), (float("nan"), "—"), (float("inf"), "—"),
        ):  # fmt: skip
            with self.subTest(value=value):
                self.assertEqual(figure(value), words)

    def test_a_change_that_rounds_to_nothing_has_no_sign(self) -> None:
        for value, words in ((0.04, "0.0"), (-0.04, "0.0"), (0.05001, "+0.1"), (-12.34, f"{MINUS}12.3")):
            self.assertEqual(signed(value), words)

    def test_what_is_counted_is_whole_and_what_is_measured_is_not(self) -> None:
        self.assertEqual(with_unit(8.0, "cameras"), "8 cameras")
        self.assertEqual(with_unit(8.5, "cameras"), "8.50 cameras")
        self.assertEqual(with_unit(60.0, "fps"), "60.0 fps")
        self.assertEqual(with_unit(3.0, ""), "3.00")

    def test_lists(self) -> None:
        self.assertEqual([and_list(words) for words in ([], ["a"], ["a", "b"])], ["", "a", "a and b"])
        self.assertEqual(numbers_of([3, 1, 2, 2]), "1 to 3")
        self.assertEqual(numbers_of([1, 2]), "1 and 2")
        self.assertEqual(numbers_of([]), "")


class Changes(unittest.TestCase):
    """The plain change of the value, whatever direction is good."""

    def words(self, comparison: Comparison, unit: str = "fps", *, ratio: bool = True) -> str:
        return comparisons.change_words(comparison, unit, ratio=ratio)

    def test_a_ratio_is_told_in_per_cent_up_to_twice_and_as_a_multiple_from_there(self) -> None:
        for change, words in (
            (0.692, f"{MINUS}30.8 %"), (1.0, "0.0 %"), (1.999, "+99.9 %"), (2.0, "2.00 ×"), (13.0, "13.0 ×"),
            (0.05, f"{MINUS}95.0 %"),
        ):  # fmt: skip
            with self.subTest(change=change):
                self.assertEqual(self.words(told(change=change)), words)

    def test_a_multiple_has_its_interval_as_multiples(self) -> None:
        found = told(change=13.0, change_low=12.0, change_high=14.5)
        self.assertEqual(comparisons.interval_words(found, "fps", ratio=True), "12.0 to 14.5 ×")

    def test_a_difference_is_told_in_its_unit_with_a_decimal_or_two_figures(self) -> None:
        for change, words in ((-5.0, f"{MINUS}5.0 dB(A)"), (0.0, "0.0 dB(A)"), (0.012, "+0.012 dB(A)")):
            with self.subTest(change=change):
                self.assertEqual(self.words(told(change=change), "dB(A)", ratio=False), words)

    def test_less_power_is_told_as_less_power_though_it_is_ahead(self) -> None:
        found = compare_with_baseline({"A": [65.0, 65.2, 64.8], "B": [45.0, 45.1, 44.9]}, "A", direction="lower")["B"]
        sentence = comparisons.comparison_sentence(found, "power", "W", "B", "A", ratio=True)
        self.assertIn("power 30.8 % lower", sentence)
        self.assertTrue(sentence.endswith(": ahead."))

    def test_times_have_their_speed(self) -> None:
        self.assertEqual(comparisons.speed_words(told(change=0.75)), "1.33 × as fast")

    def test_without_an_interval_the_sentence_says_that_the_noise_is_unknown(self) -> None:
        found = told(
            change_low=None, change_high=None, verdict="noise unknown", noise=Noise(float("nan"), 0, "unknown")
        )
        sentence = comparisons.comparison_sentence(found, "average", "fps", "B", "A", ratio=True)
        self.assertEqual(sentence, "B against A: average 10.0 % higher; the noise is unknown.")
        self.assertIn("a second pass", comparisons.basis_words(found, "fps", ratio=True))

    def test_without_a_margin_there_is_no_verdict_word(self) -> None:
        self.assertEqual(comparisons.verdict_words(told(verdict="no margin")), "")
        self.assertEqual(comparisons.verdict_words(told(verdict="slightly behind")), "slightly behind")

    def test_no_change_is_told_as_the_same(self) -> None:
        found = told(change=1.0, change_low=0.99, change_high=1.01, verdict="level")
        self.assertIn(
            "the same to the last digit", comparisons.comparison_sentence(found, "a", "W", "B", "A", ratio=True)
        )

    def test_what_would_settle_it(self) -> None:
        for needed, words in ((8, "settled by 8 passes"), (None, "over 50 passes needed"), (3, "near the margin")):
            found = PlacedComparison(told(verdict="undecided", passes_needed=needed), "passes", False)
            with self.subTest(needed=needed):
                self.assertEqual(comparisons.settling_words(found), words)
                self.assertTrue(comparisons.settling_sentence(found).endswith("."))
        self.assertEqual(comparisons.settling_sentence(PlacedComparison(COMPARISON, "passes", False)), "")

    def test_more_passes_of_the_same_sessions_do_not_settle_what_is_compared_by_sessions(self) -> None:
        found = PlacedComparison(told(verdict="undecided", passes_needed=None), "sessions", False)
        self.assertEqual(comparisons.settling_words(found), "more sessions needed")
        self.assertIn("More sessions", comparisons.settling_sentence(found))

    def test_what_a_comparison_rests_on(self) -> None:
        for source, words in (("pooled", "pooled noise"), ("own", "uneven"), ("borrowed", "borrowed")):
            found = told(noise=Noise(0.012, 4.2, source))
            with self.subTest(source=source):
                basis = comparisons.basis_words(found, "fps", ratio=True)
                self.assertIn(words, basis)
                self.assertIn("1.20 %", basis)
        self.assertIn("0.500 K", comparisons.basis_words(told(noise=Noise(0.5, 4, "pooled")), "°C", ratio=False))

    def test_brackets_that_touch_do_not_meet(self) -> None:
        values = {"held": 8, "broke": 9, "base_held": 4, "unit": "cameras"}
        self.assertIn("do not meet", say(note("brackets", base_broke=5, **values)))
        self.assertIn("do not meet", say(note("brackets", base_broke=8, **values)))
        self.assertIn("overlap", say(note("brackets", base_broke=9, **values)))

    def test_a_cell_alone_has_its_count_and_its_reason(self) -> None:
        told_ = comparisons.figure_sentence("B", "average", 60.0, "fps", 1, "both held at 60")
        self.assertEqual(told_, "B: average 60.0 fps, from 1 pass; both held at 60.")


class Flags(unittest.TestCase):
    def test_an_outlier_says_how_far_and_on_which_side(self) -> None:
        values = {"number": 3, "cold": False}
        self.assertEqual(say(note("outlier", away=-4.2, unit="%", **values)), "pass 3, outlier: 4.2 % below the median")
        self.assertEqual(
            say(note("outlier", away=2.0, unit="°C", **values)), "pass 3, outlier: 2.00 K above the median"
        )
        cold = say(note("outlier", number=1, away=-9.0, unit="%", cold=True))
        self.assertIn("cold first pass", cold)

    def test_one_pass_and_several(self) -> None:
        values = {"label": "power limit", "claimed": "15 W", "found": "18 W"}
        self.assertTrue(say(note("not_as_claimed", passes=[2], **values)).endswith("in pass 2"))
        self.assertTrue(say(note("not_as_claimed", passes=[1, 2, 3], **values)).endswith("in passes 1 to 3"))

    def test_a_rate_held_in_some_passes_says_in_how_many(self) -> None:
        self.assertNotIn("passes", say(note("rate_held", fps=60.0, passes=3, of=3)))
        self.assertIn("in 2 of 3 passes", say(note("rate_held", fps=60.0, passes=2, of=3)))

    def test_a_cell_without_a_figure_says_everything_that_is_known(self) -> None:
        values = {"running": 0, "failed": [], "blocked": False, "kept": False, "why": "", "aside": False, "owed": 0}
        for changes, words in (
            ({}, "not run"),
            ({"failed": ["crashed"], "owed": 2}, "crashed · 2 owed"),
            ({"running": 1, "owed": 1}, "running · 1 owed"),
            ({"kept": True}, "no figure was recorded"),
            ({"kept": True, "why": "its output has none"}, "no figure: its output has none"),
            ({"blocked": True}, "not averaged: run as another test"),
            ({"aside": True}, "set aside"),
        ):  # fmt: skip
            with self.subTest(changes=changes):
                self.assertEqual(say(note("no_figure", **{**values, **changes})), words)

    def test_a_stored_note_is_told_as_one_that_was_just_found(self) -> None:
        found = note("air_changed", low=21.5, high=26.0)
        self.assertEqual(say_stored({"code": found.code, "values": dict(found.values)}), say(found))
        self.assertEqual(say_stored(None), "")

    def test_a_code_that_nobody_knows_is_a_mistake_of_the_program(self) -> None:
        with self.assertRaises(KeyError):
            say(note("unheard_of"))


class Plans(unittest.TestCase):
    def test_one_and_several(self) -> None:
        one = say(note("plan_unequal", labels=["fan profile"], lacking=["B"]))
        two = say(note("plan_unequal", labels=["fan profile", "image"], lacking=["B", "C"]))
        self.assertIn("fan profile is set", one)
        self.assertIn("fan profile and image are set on some configurations and not on B and C", two)

    def test_a_requirement_names_what_is_there(self) -> None:
        sized = note("plan_requirement", tests=["walk"], label="memory", least=8, unit="GB", has=[("B", 6.0)])
        self.assertEqual(say(sized), "walk asks for 8 GB of memory; B has 6.")
        named = note("plan_requirement", tests=["walk", "lap"], label="a wheel", least=None, unit="", has=[("B", None)])
        self.assertEqual(say(named), "walk and lap ask for a wheel, which B does not have.")

    def test_passes_that_would_settle_it_are_the_remedy(self) -> None:
        values = {"test": "walk", "spread": 0.021, "margin": 0.03, "planned": 3, "most": 50}
        enough = Point(note("plan_passes", needed=7, **values), "warns", "passes")
        hopeless = Point(note("plan_passes", needed=None, **values), "warns", "margin")
        self.assertTrue(say(enough.found).endswith("3 passes cannot settle 3 %; 7 would."))
        self.assertEqual(plan.remedy(enough), "Plan 7 passes per test.")
        self.assertIn("even 50 passes", say(hopeless.found))
        self.assertIn("Widen the margin", plan.remedy(hopeless))

    def test_every_point_has_its_remedy(self) -> None:
        codes = [code.removeprefix("plan_") for code in plan.SENTENCES]
        for code in codes:
            point = Point(note(f"plan_{code}", needed=3), "warns", "test")
            with self.subTest(code=code):
                self.assertTrue(plan.remedy(point).endswith("."))

    def test_what_does_not_fit_is_told_with_the_configuration(self) -> None:
        misfit = note("card_too_long", length_mm=310, room_mm=240)
        told_ = say(note("plan_misfit", label="Heron", misfit=misfit))
        self.assertEqual(told_, "Heron: the graphics card is 310 mm long, and the case has room for 240 mm.")

    def test_an_estimate_says_what_it_takes_for_granted(self) -> None:
        self.assertEqual(len(plan.cost_assumptions(0, 120)), 1)
        self.assertIn("1 test has no length", plan.cost_assumptions(1, 120)[1])
        self.assertIn("2 tests have no length on record; 2 min", plan.cost_assumptions(2, 120)[1])
        self.assertEqual(Cost(2, 1, 3).time_s, 2 * 900 + 240 + 180)


class Slots(unittest.TestCase):
    BOARD = SlotMap(
        (Slot("A1", "A", 3), Slot("A2", "A", 1), Slot("B1", "B", 4), Slot("B2", "B", 2)),
        max_gb=64, max_module_gb=32, speeds=(SpeedLimit(1, 6000), SpeedLimit(2, 5200)), takes_ecc=False,
    )  # fmt: skip

    def found(self, modules: dict[str, Module], set_mts: float | None = None) -> dict[str, tuple[str, str]]:
        populated = populate(self.BOARD, modules, set_mts)
        return {one.kind: (slot_words(one), slot_remedy(one)) for one in populated.mistakes}

    def test_wrong_slots_say_what_they_cost_and_where_to_go(self) -> None:
        words, remedy = self.found({"A1": Module("k", 8), "A2": Module("k", 8)})["wrong slots"]
        self.assertEqual(words, "modules in A1 and A2: only 1 channel of 2 in use")
        self.assertEqual(remedy, "Put them into A2 and B2.")

    def test_each_mistake_has_a_remedy(self) -> None:
        kits = {
            "A2": Module("k", 48, rated_mts=5600, ecc=True), "B2": Module("l", 16, rated_mts=5600, ecc=False),
            "A1": Module("k", 8, rated_mts=5600),
        }  # fmt: skip
        found = self.found(kits, 6400)
        self.assertLessEqual(
            {"uneven channels", "mixed kits", "mixed correction", "over the capacity", "over the capacity of a slot",
             "refused module", "over the speed", "over the rating"},
            set(found),
        )  # fmt: skip
        for kind, (words, remedy) in found.items():
            with self.subTest(kind=kind):
                self.assertTrue(words)
                self.assertTrue(remedy.endswith("."))
        self.assertIn("6400 MT/s are over the 5200 MT/s", found["over the speed"][0])
        self.assertIn("2 modules on a channel", found["over the speed"][0])


class Others(unittest.TestCase):
    def test_brackets(self) -> None:
        for bracket, words in (
            (Bracket(84, 88), "84 streams held, 88 broke"),
            (Bracket(84, None), "84 streams held, nothing tried above"),
            (Bracket(None, 4), "no load held"),
            (Bracket(None, None), "nothing tried yet"),
        ):
            self.assertEqual(bracket_words(bracket, "streams"), words)

    def test_steps_speak_to_the_tester(self) -> None:
        self.assertEqual(
            says([
                note("set_to", label="power limit", was="35 W", value="20 W"),
                note("set_to", label="power limit", was="", value="20 W"),
                note("put_back", label="memory speed", value="5600 MT/s"),
                note("bring_room_to", value="30 °C"),
                note("take_out", part="module 1", place="slot A2"),
                note("take_out", part="Tern 8", place="graphics card"),
            ]),
            [
                "Set power limit from 35 W to 20 W.", "Set power limit to 20 W.",
                "Put memory speed back to 5600 MT/s: the exchange has reset it.", "Bring the room to 30 °C.",
                "Take module 1 out of slot A2.", "Take the graphics card out: Tern 8.",
            ],
        )  # fmt: skip

    def test_one_impossible_value_and_several(self) -> None:
        self.assertEqual(say(note("values_impossible", count=1, farthest=140.0, unit="%")), "1 value cannot be: 140 %")
        self.assertTrue(say(note("values_impossible", count=2, farthest=300.0, unit="°C")).startswith("2 values"))

    def test_enough_memory(self) -> None:
        values = {"needed": 6.2, "reserve": 0.1}
        self.assertEqual(
            say(note("enough_memory", size=8.0, at_least=False, **values)),
            "6.20 GB with 10 % in reserve: 8.00 GB is enough",
        )
        self.assertTrue(say(note("enough_memory", size=None, at_least=True, **values)).startswith("At least 6.20 GB"))

    def test_how_long_a_file_lasts(self) -> None:
        self.assertEqual(say(note("lasts", duration_s=60.0, frames=3600)), "lasts 60.0 s, 3,600 frames, 60.0 fps")
        self.assertEqual(say(note("lasts", duration_s=600.0, frames=0)), "lasts 10.0 min")

    def test_columns_left_out_are_named_up_to_four(self) -> None:
        self.assertEqual(say(note("columns_left_out", columns=["a", "b"])), "left out: a and b")
        self.assertEqual(say(note("columns_left_out", columns=list("abcdef"))), "left out: a, b, c, d and 2 more")

    def test_rows_have_their_plural(self) -> None:
        self.assertTrue(say(note("times_repeat", rows=1)).startswith("1 row has"))
        self.assertTrue(say(note("times_repeat", rows=1200)).startswith("1,200 rows have"))

    def test_workloads(self) -> None:
        self.assertIn("12 s", say(note("workload_short", lasts_s=12.0)))
        self.assertIn("1,000 are needed", say(note("workload_few_frames", frames=640.2, needed=1000)))
        self.assertIn("900 frames per second", say(note("workload_light", fps=900.3)))
