"""What findings say: every branch of every sentence, no longer than thirty words, no further than what was found."""

import unittest
from typing import Any

from nomothet.core.notes import note
from nomothet.words import say
from nomothet.words.economy import energy_words, euro
from nomothet.words.findings import change_of, changed_words, changes_of, per_unit_words, settling_of


def told(code: str, **values: Any) -> str:
    return say(note(code, **values))  # type: ignore[arg-type]


class FindingWords(unittest.TestCase):
    """Each case is values and what must be said of them."""

    def check(self, code: str, base: dict[str, Any], *cases: tuple[dict[str, Any], str]) -> None:
        for changes, said in cases:
            with self.subTest(code=code, changes=changes):
                words = told(code, **{**base, **changes})
                self.assertIn(said, words)
                self.assertLessEqual(len(words.split()), 30, words)
                self.assertTrue(words.endswith("."), words)

    def test_over_all_tests(self) -> None:
        base = {
            "own": "B", "baseline": "A", "tests": 2, "role": "averages", "ratio": 0.9, "low": 0.88, "high": 0.92,
            "verdict": "behind",
        }  # fmt: skip
        self.check(
            "finding_over_all",
            base,
            ({}, "Over 2 tests, the averages of B come to 90.0 % of A, 88.0 to 92.0 %: behind."),
            ({"tests": 1}, "Over 1 test,"),
            ({"ratio": 13.0, "low": 12.0, "high": 14.0, "verdict": "ahead"}, "13.0 × of A, 12.0 to 14.0 ×: ahead."),
            ({"low": None, "high": None}, "90.0 % of A; the noise is unknown."),
        )

    def test_sweeps(self) -> None:
        base = {"test": "walk", "metric": "average", "best": "35 W", "enough": "28 W", "below": "20 W"}
        self.check(
            "finding_sweep",
            base,
            ({}, "28 W is enough, within the margin of the best, 35 W; 20 W may lose more than the margin."),
            ({"below": ""}, "28 W is enough, within the margin of the best, 35 W."),
            ({"enough": "35 W"}, "nothing below 35 W is enough."),
            ({"enough": "35 W", "below": ""}, "35 W is the best and the lowest."),
        )

    def test_chains(self) -> None:
        base = {
            "start": "bare", "end": "all", "where": "", "tests": 2, "ratio": 0.9, "verdict": "behind", "before": "a",
            "after": "b", "step": 0.95, "step_verdict": "slightly behind",
        }  # fmt: skip
        self.check(
            "finding_chain",
            base,
            ({}, "From bare to all, over 2 tests: −10.0 %, behind. The largest step, a to b, is −5.0 %, slightly"),
            ({"where": "walk, average"}, "in walk, average: −10.0 %"),
        )

    def test_grids(self) -> None:
        base = {
            "test": "soak", "metric": "average", "effects": [("door", 0.9, "behind"), ("filter", 1.0, "level")],
            "together": None,
        }  # fmt: skip
        self.check(
            "finding_grid",
            base,
            ({}, "by what differs from the baseline: door −10.0 %, behind; filter 0.0 %, level."),
            ({"together": ("filter", "in", "door", "closed", 0.91)}, "filter in costs 9.00 % more with door closed."),
            ({"together": ("filter", "in", "door", "closed", 1.05)}, "filter in brings 5.00 % more with door closed."),
        )

    def test_loads(self) -> None:
        base = {
            "test": "lens", "unit": "cameras", "best": "B", "held": 8, "worst": "A", "worst_held": 5, "loss_pct": None,
            "unstable": [], "runs_out": "processor use",
        }  # fmt: skip
        self.check(
            "finding_load",
            base,
            ({}, "B held 8 cameras, A 5; processor use runs out first."),
            ({"worst": ""}, "B held 8 cameras; processor use"),
            ({"loss_pct": 25.0}, "heat costs 25.0 %"),
            ({"loss_pct": 0.0}, "B held 8 cameras, A 5; processor"),
            ({"unstable": ["B"]}, "loads both held and broke on B."),
            ({"runs_out": ""}, "A 5."),
        )

    def test_scaling_and_crossing(self) -> None:
        base = {
            "test": "render", "name": "threads", "n": 32.0, "speedup": 15.2, "efficiency": 0.475, "clock": None,
            "peak": None,
        }  # fmt: skip
        self.check(
            "finding_scaling",
            base,
            ({}, "32 threads do 15.2 × the work of one, 47.5 % of the ideal."),
            ({"clock": 0.92, "peak": 30.0}, "of the ideal, at 92.0 % of its clock."),
            ({"peak": 30.0}, "it turns down at 30.0."),
        )
        base = {
            "workload": "Kiln", "metric": "time", "above": "card", "below": "processor", "setting": "size", "unit": "M",
            "size": 1.5, "low": 1.4, "high": 1.6, "more": 0,
        }  # fmt: skip
        self.check(
            "finding_crossover",
            base,
            ({}, "above size 1.50 M (1.40 to 1.60) card is ahead, under it processor."),
            ({"low": None, "high": None}, "above size 1.50 M card is ahead"),
            ({"more": 1}, "it crosses 1 more time."),
            ({"more": 2}, "it crosses 2 more times."),
        )
        values = {
            "test": "Kiln", "sooner": "card", "phase": "picture", "told": "−50.0 %", "later": "processor",
            "other": "first picture", "other_told": "−30.0 %",
        }  # fmt: skip
        self.check(
            "finding_phases",
            values,
            ({}, "card is sooner with the picture (−50.0 %), processor with the first picture (−30.0 %)."),
        )

    def test_drops(self) -> None:
        base = {
            "test": "flight", "own": "35 W", "dropped": True, "drop_pct": 9.0, "at_s": 44.0, "cause": "temperature",
            "holding": ["28 W", "20 W", "15 W"],
        }  # fmt: skip
        self.check(
            "finding_burst",
            base,
            ({}, "35 W drops 9.00 % after 44 s, by temperature; 28 W, 20 W and 1 more hold."),
            ({"holding": ["28 W"]}, "28 W holds."),
            ({"holding": []}, "by temperature."),
            ({"cause": "unknown"}, "after 44 s; 28 W"),
            ({"at_s": None, "cause": None}, "drops 9.00 %; 28 W"),
            (
                {"drop_pct": None},
                "35 W drops after 44 s, by temperature, without a lower rate in the end; 28 W, 20 W and 1 more hold.",
            ),
            ({"dropped": False}, "every configuration holds what it begins with."),
        )

    def test_energy_and_price(self) -> None:
        base = {
            "test": "flight", "most": "15 W", "other": "35 W", "told": "+50.0 %", "interval": "+49.0 to +51.0 %",
            "verdict": "ahead", "source": "package", "watts": 18.0, "idle_off": False,
        }  # fmt: skip
        self.check(
            "finding_energy",
            base,
            ({}, "15 W does most work per watt (package, 18.0 W): +50.0 % (+49.0 to +51.0 %) over 35 W, ahead."),
            ({"watts": None, "idle_off": True}, "(package, idle taken off)"),
            ({"interval": "", "verdict": "noise unknown"}, "+50.0 % over 35 W, noise unknown."),
        )
        base = {
            "frontier": ["A", "B"], "beaten": [("C", ["A", "B"])], "best": "A", "basis": "street", "day": "2026-04-20",
            "tests": 3,
        }  # fmt: skip
        self.check(
            "finding_frontier",
            base,
            ({}, "A does the most for its price over 3 tests; C is beaten by A, which costs no more."),
            ({"beaten": [("C", ["A"]), ("D", ["A"])]}, "; so is 1 more."),
            ({"beaten": []}, "of A and B none is beaten."),
        )
        self.assertEqual([euro(89.0), euro(89.5), euro(1234.5)], ["89 €", "89.50 €", "1234 €"])
        self.assertEqual([energy_words(3600.0), energy_words(3.6e6)], ["1.00 Wh", "1.00 kWh"])
        self.assertIn("note it on the shelf", told("no_price", missing=[], basis="paid"))
        self.assertIn("no paid price of a, b, c and 2 more", told("no_price", missing=list("abcde"), basis="paid"))

    def test_headroom(self) -> None:
        base = {
            "quantity": "graphics memory used", "needed": 4.16, "reserve": 0.2, "size": 8.0, "at_least": False,
            "leading": "flight", "ran_out": [("1 GB", "flight"), ("1 GB", "walk")],
        }  # fmt: skip
        self.check(
            "finding_headroom",
            base,
            ({}, "flight needs 4.16 GB of graphics memory with 20 % to spare: 8 GB are enough; it ran out on 1 GB."),
            ({"ran_out": []}, "8 GB are enough."),
            ({"size": None}, "no size on offer is enough"),
            ({"at_least": True}, "needs at least 4.16 GB"),
        )

    def test_lows(self) -> None:
        base = {
            "test": "flight", "own": "28 W", "baseline": "35 W", "average": "level", "average_told": "−1.0 %",
            "low": "behind", "low_told": "−20.0 %", "apart": 1, "hitches": [1.0, 2.0],
        }  # fmt: skip
        self.check(
            "finding_lows",
            base,
            ({}, "average level (−1.0 %), 1 % low behind (−20.0 %): they disagree."),
            ({"apart": 2}, "they disagree; so does 1 more."),
            ({"apart": 3}, "they disagree; so do 2 more."),
            ({"apart": 0}, "nowhere disagree for certain; there are 1.00 to 2.00 hitches per minute."),
            ({"apart": 0, "hitches": [2.0, 2.0]}, "there are 2.00 hitches per minute."),
            ({"apart": 0, "hitches": []}, "nowhere disagree for certain."),
        )

    def test_pairs(self) -> None:
        base = {
            "kind_words": "", "words": "4K against 1080p", "own": "A", "told": "−60.0 %", "interval": "−61 to −59 %",
            "pixels": 4.0, "other_order": False,
        }  # fmt: skip
        self.check(
            "finding_pair",
            base,
            ({}, "4K against 1080p: −60.0 % (−61 to −59 %), most on A, with 4 × the pixels."),
            ({"interval": "", "pixels": None}, "−60.0 %, most on A."),
            ({"other_order": True}, "The two put the configurations in another order."),
        )
        toggle = {"name": "walk, filter", "own": "A", "told": "+3.0 %", "n": 1}
        self.check("finding_toggle", toggle, ({}, "over 1 pair."), ({"n": 4}, "over 4 pairs."))

    def test_time(self) -> None:
        base = {"baseline": "A", "tests": 2, "drifted": [], "open": 0, "widest": "walk", "told": "−1.0 %"}
        self.check(
            "finding_returned",
            base,
            ({}, "came back as it was in 2 tests: −1.0 % at most."),
            ({"open": 1}, "cannot be told in 1 of 2 tests."),
            ({"drifted": ["walk"]}, "had drifted in walk: −1.0 % in walk."),
        )
        base = {
            "name": "walk, average", "own": "A", "first": "driver 1", "last": "driver 2", "ratio": 0.95, "low": 0.94,
            "high": 0.96, "verdict": "behind",
        }  # fmt: skip
        self.check(
            "finding_update",
            base,
            ({}, "from driver 1 to driver 2 −5.0 %, −6.0 to −4.0 %: behind."),
            ({"low": None, "high": None}, "−5.0 %, noise unknown"),
        )
        base = {"cells": 3, "apart": 0, "open": 0, "name": "walk", "own": "A", "ratio": 0.99, "verdict": "level"}
        self.check(
            "finding_sessions",
            base,
            ({}, "All 3 cells measured in several sessions stayed level from one to the next: −1.0 % in walk on A"),
            ({"cells": 1}, "The only cell measured in several sessions stayed level"),
            ({"open": 1}, "2 stayed level; for 1 it is undecided"),
            ({"apart": 1}, "Of 3 cells measured in several sessions, 1 changed from one to the next"),
        )

    def test_targets_and_ladders(self) -> None:
        base = {"meets": ["A"], "misses": [("B", 1, 2)], "untold": ["C"], "cheapest": ""}
        self.check(
            "finding_targets",
            base,
            ({}, "A meets every target; B misses 1 of 2; of C it cannot be told yet."),
            ({"meets": ["A", "B"], "cheapest": "B"}, "A and B meet every target; B is the cheapest of them"),
            ({"misses": [(name, 1, 2) for name in "BCD"]}, "C misses 1 of 2; 1 more misses some"),
            ({"misses": [(name, 1, 2) for name in "BCDE"]}, "2 more miss some"),
            ({"meets": [], "misses": []}, "Of C it cannot be told yet."),
        )
        self.check(
            "finding_ladder",
            {"name": "presets", "best": [("A", "high")], "of": 2},
            ({}, "the most demanding settings that meet the targets: high on A; 1 meet them with none."),
            ({"best": [], "of": 1}, "no settings that were tried meet the targets."),
            ({"best": [(name, "high") for name in "ABCDE"], "of": 5}, "high on C; 2 more have some."),
        )

    def test_expectations(self) -> None:
        base = {
            "own": "B", "word": "level", "of": "A", "most_pct": None, "where": "", "role": "averages", "ratio": 0.98,
            "low": 0.97, "high": 0.99, "held": "held", "tests": 3,
        }  # fmt: skip
        self.check(
            "finding_expected",
            base,
            ({}, "Expected: B level with A, averages. Held over 3 tests: −2.0 % (−3.0 to −1.0 %)."),
            (
                {"word": "behind", "most_pct": 10.0, "held": "not held"},
                "B behind A by 10 % at most, averages. Not",
            ),
            ({"word": "ahead", "where": "walk"}, "B ahead of A in walk. Held: −2.0 %"),
            (
                {"low": None, "high": None, "held": "cannot tell"},
                "cannot be told over 3 tests: −2.0 %, noise unknown.",
            ),
            ({"ratio": None, "held": "cannot tell"}, "It cannot be told: not measured on both."),
        )

    def test_what_cannot_be_told(self) -> None:
        self.check(
            "finding_blind",
            {"name": "race, average", "labels": ["B"], "held": 60.0, "by": ""},
            ({}, "race, average shows nothing of B: it and the baseline are held at 60 fps."),
            ({"labels": ["B", "C"]}, "of B and C: they and the baseline are held"),
            ({"held": None, "by": "graphics"}, "it and the baseline are limited by graphics."),
            ({"held": None}, "are limited by something else."),
        )
        self.check(
            "finding_holes",
            {"count": 3, "tests": 2, "failed": 0},
            ({}, "3 cells have no figures, in 2 tests."),
            (
                {"count": 1, "tests": 1, "failed": 1},
                "1 cell has no figures, in 1 test; in 1 of them the workload failed.",
            ),
        )
        self.check(
            "finding_missing",
            {"named": ["door closed, filter in"], "factors": ["door", "filter"]},
            ({}, "Whether door and filter act on one another cannot be told without door closed, filter in."),
        )

    def test_what_is_not_settled(self) -> None:
        base = {
            "count": 1, "rows": 1, "name": "walk, low", "own": "B", "baseline": "A", "told": "−1.0 %", "passes": 4,
            "unknown": 0, "hopeless": 0,
        }  # fmt: skip
        self.check(
            "finding_not_settled",
            base,
            ({}, "walk, low, B against A: −1.0 % is not settled; 4 more passes would settle it."),
            ({"passes": 1}, "1 more pass would settle it."),
            ({"count": 2}, "walk, low: 2 comparisons with A are not settled; 4 more passes would settle them."),
            ({"count": 2, "hopeless": 1}, "would settle 1 of them."),
            ({"count": 9, "rows": 4}, "9 comparisons in 4 more rows are not settled"),
            ({"passes": 0, "hopeless": 1}, "over 50 passes a cell would be needed."),
            ({"passes": 0, "hopeless": 1, "sessions": 1}, "more sessions would be needed."),
            ({"passes": 0}, "it is near the margin."),
            ({"passes": 0, "unknown": 1}, "is not settled."),
        )


class Acts(unittest.TestCase):
    def test_passes_with_their_time(self) -> None:
        for passes, hours, said in (
            (1, 0.001, "put 1 pass on the docket, 1 min"),
            (4, 0.5, "put 4 passes on the docket, 30 min"),
            (40, 2.25, "put 40 passes on the docket, 2.2 h"),
        ):
            self.assertEqual(told("act_owe", passes=passes, hours=hours), said)
        self.assertEqual(told("act_waiting", passes=1), "1 pass waits on the docket already")
        self.assertEqual(told("act_waiting", passes=2), "2 passes wait on the docket already")

    def test_steps_and_configurations(self) -> None:
        alone = told("act_alone", steps=["fan"], start="bare")
        self.assertEqual(alone, "fan was never measured alone, straight from bare")
        self.assertIn("fan and door were never", told("act_alone", steps=["fan", "door"], start="bare"))
        self.assertEqual(told("act_configuration", named=["x 1"]), "add the configuration x 1 in the brief")
        self.assertIn("without the cap", told("act_uncap"))

    def test_conditions_name_their_tests(self) -> None:
        for code in ("caveat_own_noise", "caveat_borrowed_noise", "caveat_recorder", "caveat_capture"):
            self.assertIn("walk, flight and 1 more", told(code, tests=["walk", "flight", "lap"]))
        self.assertIn("leaves out the graphics card of A", told("caveat_card", labels=["A"]))
        self.assertIn("One session each", told("caveat_one_session"))

    def test_why_there_is_no_work_per_watt(self) -> None:
        for code in ("economy_no_rate", "no_power", "no_work", "no_work_over_idle"):
            self.assertTrue(told(code))


class Pins(unittest.TestCase):
    def test_what_changed_about_a_pinned_finding(self) -> None:
        was = {"told": "+66.0 %", "verdict": "ahead"}
        for now, said in (
            ({"told": "+71.0 %", "verdict": "ahead"}, "was +66.0 %, is +71.0 %; still ahead"),
            ({"told": "+66.0 %", "verdict": "level"}, "was ahead, is level"),
            ({"told": "+66.0 %", "verdict": "ahead"}, "says it otherwise"),
            ({"told": "", "verdict": ""}, "was +66.0 %, is not told; was ahead, is open"),
            (None, "is no longer found"),
        ):
            self.assertEqual(changed_words(was, now), said)

    def test_amounts(self) -> None:
        self.assertEqual([change_of(0.9), change_of(2.0), change_of(1.0)], ["−10.0 %", "2.00 ×", "0.0 %"])
        self.assertEqual([changes_of(None, 1.0), changes_of(2.0, 3.0)], ["", "2.00 to 3.00 ×"])
        self.assertEqual([per_unit_words(None), per_unit_words(1.25)], ["", "+1.2 %"])
        self.assertEqual(settling_of("noise unknown", ""), "a second pass")
        self.assertEqual(settling_of("undecided", "settled by 4 passes"), "settled by 4 passes")
