"""Readings as people type them (section 18): what is understood, what is refused, and what looks wrong."""

import math
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.compare import compare_with_baseline
from nomothet.core.errors import BadQuantity
from nomothet.core.noise import reading_error
from nomothet.core.readings import Known, Reading, plausibility, read_readings
from nomothet.words import says


def values(text: str, unit: str = "fps") -> list[float | None]:
    return [one.value for one in read_readings(text, unit)]


class Understood(unittest.TestCase):
    def test_several_passes_in_one_cell(self) -> None:
        self.assertEqual(values("94.1 93.8 94.4"), [94.1, 93.8, 94.4])
        self.assertEqual(values("94.1; 93.8;94.4"), [94.1, 93.8, 94.4])
        self.assertEqual(values("94,1 93,8"), [94.1, 93.8])

    def test_a_range_is_its_middle_with_half_its_width(self) -> None:
        for text in ("52–55", "52-55", "52 – 55", "52..55"):
            with self.subTest(text=text):
                (one,) = read_readings(text, "°C")
                self.assertEqual((one.value, one.half_width), (53.5, 1.5))
                self.assertAlmostEqual(one.spread, 3 / math.sqrt(12))
                self.assertTrue(one.counts)

    def test_about_over_and_under_are_kept_and_take_part_in_no_verdict(self) -> None:
        for text, bound in (("~45", "about"), (">200", "over"), ("<10", "under"), ("≥ 90", "over")):
            (one,) = read_readings(text, "fps", precision=0.5)
            self.assertEqual((one.bound, one.half_width, one.counts), (bound, None, False))

    def test_a_given_half_width_makes_about_count(self) -> None:
        (one,) = read_readings("~45 ± 2", "fps")
        self.assertEqual((one.value, one.half_width, one.counts), (45.0, 2.0, True))

    def test_times(self) -> None:
        for text, seconds in (
            ("12:07", 727.0), ("1:02:03", 3723.0), ("1 h 03 min", 3780.0), ("2 min 5 s", 125.0), ("90 s", 90.0),
            ("1.5 min", 90.0), ("250 ms", 0.25), ("2 h", 7200.0),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(values(text, "s"), [seconds])
        self.assertEqual(values("12:07", "min"), [727 / 60])

    def test_units_are_converted(self) -> None:
        self.assertEqual(values("4.2 GHz", "MHz"), [4200.0])
        self.assertEqual(values("212 °F", "°C"), [100.0])
        self.assertEqual(values("0.5 kW", "W"), [500.0])
        self.assertEqual(values("94.1fps 93.0 fps"), [94.1, 93.0])

    def test_a_letter_is_an_outcome_and_a_sign_a_reason(self) -> None:
        read = read_readings("n c h v o r s - x ?", "fps")
        self.assertEqual(
            [one.outcome for one in read[:7]],
            ["did_not_start", "crashed", "hung", "visual_faults", "overloaded", "refused", "stopped"],
        )
        self.assertEqual([one.missing for one in read[7:]], ["not run", "not recorded", "shown but not noted"])
        self.assertTrue(all(one.value is None for one in read))

    def test_a_unit_that_is_a_letter_too_is_read_as_the_unit(self) -> None:
        self.assertEqual(values("61 C 62 C", "°C"), [61.0, 62.0])
        self.assertEqual(values("61C", "°C"), [61.0])
        read = read_readings("61 c", "°C")
        self.assertEqual([one.outcome for one in read], ["completed", "crashed"])
        self.assertEqual([one.outcome for one in read_readings("94 C", "fps")], ["completed", "crashed"])

    def test_an_outcome_carries_its_reason(self) -> None:
        one, two = read_readings("c (driver reset, went on) 94.1", "fps")
        self.assertEqual((one.outcome, one.reason, two.value), ("crashed", "driver reset, went on", 94.1))
        self.assertEqual(read_readings("n(no graphics card)", "fps")[0].reason, "no graphics card")

    def test_the_last_digit_typed_is_the_step(self) -> None:
        for text, unit, step in (
            ("94.1", "fps", 0.1), ("61", "°C", 1.0), ("94,10", "fps", 0.01), ("4.2 GHz", "MHz", 100.0),
            ("12:07", "s", 1.0), ("12:07.5", "s", 0.1), ("1 h 03 min", "s", 60.0), ("2 h", "min", 60.0),
            ("8", "cameras", 1.0),
        ):  # fmt: skip
            with self.subTest(text=text):
                (one,) = read_readings(text, unit)
                self.assertAlmostEqual(one.step, step)
        (wide,) = read_readings("61 ± 2", "°C")
        self.assertAlmostEqual(wide.spread, 4 / math.sqrt(12))
        (plain,) = read_readings("61", "°C")
        self.assertAlmostEqual(plain.spread, 1 / math.sqrt(12))

    def test_letters_after_figures_are_outcomes_unless_the_unit_goes_by_them(self) -> None:
        self.assertEqual(
            [one.outcome for one in read_readings("94.1 c 93", "fps")], ["completed", "crashed", "completed"]
        )
        self.assertEqual(values("94 s 93"), [94.0, None, 93.0])
        self.assertEqual(values("94 s 93 s", "s"), [94.0, 93.0])

    def test_the_rows_precision_holds_for_plain_figures_only(self) -> None:
        plain, ranged, about = read_readings("94 90–92 ~80", "fps", precision=0.5)
        self.assertEqual((plain.half_width, ranged.half_width, about.half_width), (0.5, 1.0, None))
        self.assertIsNone(read_readings("94", "fps", precision=None)[0].half_width)


class Parts(unittest.TestCase):
    def test_a_part_is_drawn_out_to_the_whole_and_is_a_forecast(self) -> None:
        one, two = read_readings("12:07 @ 30/120 480 s@ 60/120", "s")
        self.assertEqual((one.value, one.part, one.bound), (727.0 * 4, (30.0, 120.0), "about"))
        self.assertEqual(two.value, 960.0)
        self.assertFalse(one.counts)

    def test_parts_that_make_no_sense_are_refused(self) -> None:
        for text, unit in (("12:07 @ 130/120", "s"), ("12:07 @ 0/120", "s"), ("94 @ 3/4", "fps"), ("c @ 1/2", "s")):
            with self.subTest(text=text), self.assertRaisesRegex(BadQuantity, "part"):
                read_readings(text, unit)


class Refused(unittest.TestCase):
    def check(self, text: str, unit: str, words: str) -> None:
        with self.subTest(text=text), self.assertRaisesRegex(BadQuantity, words):
            read_readings(text, unit)

    def test_what_cannot_be_read_is_named_with_what_would_do(self) -> None:
        self.check("abc", "fps", "'abc' cannot be read")
        self.check("90 kg", "fps", "is in kg; this row is in fps")
        self.check("1,234", "fps", "write 1.234 or 1234")
        self.check("1 234", "points", "two ways")
        self.check("99 12 345", "points", "two ways")
        self.assertEqual(values("120 118 121"), [120.0, 118.0, 121.0])
        self.check("55–52", "fps", "runs backwards")
        self.check("94.1.2", "fps", "not a number")
        self.check("", "fps", "Nothing was typed")
        self.check("1 " * 2000, "fps", "more than a cell can hold")

    @given(st.text(max_size=40))
    def test_any_text_is_read_or_refused_in_words(self, text: str) -> None:
        try:
            read = read_readings(text, "fps")
        except BadQuantity as error:
            self.assertTrue(str(error))
        else:
            self.assertTrue(all(isinstance(one, Reading) for one in read))

    @given(st.lists(st.floats(0.1, 1e5).map(lambda v: round(v, 3)), min_size=1, max_size=8))
    def test_figures_come_back_as_they_were_written(self, given_values: list[float]) -> None:
        self.assertEqual(values(" ".join(map(str, given_values))), given_values)


class Plausible(unittest.TestCase):
    def warn(self, value: float, unit: str = "fps", metric: str = "average", **known: Any) -> str:
        scale: Any = "difference" if unit in ("°C", "%") else "ratio"
        return " ".join(says(plausibility(value, metric=metric, unit=unit, scale=scale, known=Known(**known))))

    def test_every_warning_of_the_method(self) -> None:
        self.assertIn("above the average", self.warn(95.0, metric="low", average=90.0))
        self.assertIn("above the low", self.warn(80.0, metric="minimum", low=70.0))
        self.assertIn("over 2,000 fps", self.warn(2500.0))
        self.assertIn("outside 0 to 100", self.warn(120.0, "%"))
        self.assertIn("outside −20 to 130", self.warn(400.0, "°C"))
        self.assertIn("outside 1 to 15000 MHz", self.warn(46_000.0, "MHz"))
        self.assertIn("1.5 times the rated", self.warn(9000.0, "MHz", rated=4600.0))
        self.assertIn("standard deviations", self.warn(120.0, values=[94.0, 95.0], spread=0.01))
        self.assertIn("two numbers run together", self.warn(9495.0, values=[94.0, 95.0]))

    def test_what_is_usual_is_not_warned_of(self) -> None:
        self.assertEqual(self.warn(94.5, values=[94.0, 95.0], spread=0.01), "")
        self.assertEqual(self.warn(71.0, "°C"), "")
        self.assertEqual(self.warn(1016.0, values=[1000.0, 1010.0]), "")


class InComparisons(unittest.TestCase):
    def test_readings_that_are_not_exact_widen_the_interval(self) -> None:
        cells = {"A": [100.0, 102.0, 98.0], "B": [110.0, 111.0, 109.0]}
        exact = compare_with_baseline(cells, "A")["B"]
        error = reading_error(cells["B"], [2.0, 2.0, 2.0], "ratio")
        loose = compare_with_baseline(cells, "A", spreads={"B": error})["B"]
        assert exact.low
        assert exact.high
        assert loose.low
        assert loose.high
        self.assertEqual(loose.effect, exact.effect)
        self.assertLess(loose.low, exact.low)
        # By hand: the standard error is √(se² + u²), the interval t times that on the log scale.
        half, wider = math.log(exact.high / exact.effect), math.log(loose.high / loose.effect)
        t = 2.7764451051977987
        self.assertAlmostEqual(wider, math.hypot(half, t * error), places=9)

    def test_the_error_of_a_cell_falls_with_its_passes(self) -> None:
        self.assertAlmostEqual(reading_error([50.0] * 4, [1.0] * 4, "difference"), 0.5)
        self.assertEqual(reading_error([], [], "ratio"), 0.0)
