"""Quantities: what holds for every value, and for the schemas of parts and settings."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.change_steps import disagrees
from nomothet.core.errors import BadQuantity
from nomothet.core.parts import KINDS, SOURCES, read_attributes
from nomothet.core.quantities import Spec, Value, read_value, text_of
from nomothet.core.settings import CATALOGUE, read_setting, setting_of

NUMBERS = [spec for kind in KINDS.values() for spec in kind.attributes if spec.kind in ("number", "whole")]
NUMBERS += [one.spec for one in CATALOGUE.values() if one.spec.kind in ("number", "whole")]


@st.composite
def valued(draw: st.DrawFn) -> tuple[Spec, float]:
    """A numeric spec with a value within its bounds."""
    spec = draw(st.sampled_from(NUMBERS))
    low, high = spec.low if spec.low is not None else -1e6, spec.high if spec.high is not None else 1e6
    if spec.kind == "whole":
        return spec, draw(st.integers(int(-(-low // 1)), int(high)))
    return spec, draw(
        st.floats(low, high, allow_nan=False).map(lambda number: round(number, 4)).filter(lambda n: low <= n <= high)
    )


class Reading(unittest.TestCase):
    @given(valued())
    def test_a_value_within_bounds_is_read_as_it_is_however_it_is_written(self, given_: tuple[Spec, float]) -> None:
        spec, number = given_
        for written in (number, f"{number:.4f}" if spec.kind == "number" else str(number)):
            self.assertAlmostEqual(float(read_value(spec, written)), number, places=6)
        with_unit = f"{number:.4f} {spec.unit}" if spec.kind == "number" else f"{number} {spec.unit}"
        self.assertAlmostEqual(float(read_value(spec, with_unit)), number, places=6)

    @given(valued())
    def test_reading_twice_changes_nothing(self, given_: tuple[Spec, float]) -> None:
        spec, number = given_
        once = read_value(spec, number)
        self.assertEqual(read_value(spec, once), once)

    @given(st.sampled_from([spec for spec in NUMBERS if spec.high is not None]), st.floats(1.0001, 1e6))
    def test_over_the_bound_is_always_refused_by_name(self, spec: Spec, times: float) -> None:
        assert spec.high is not None
        with self.assertRaises(BadQuantity) as refused:
            read_value(spec, spec.high * times + 1)
        self.assertEqual(refused.exception.field, spec.key)

    @given(
        st.one_of(st.text(max_size=30), st.floats(), st.integers(), st.booleans(), st.none(), st.lists(st.integers()))
    )
    def test_whatever_is_given_is_read_or_refused_and_nothing_else(self, anything: object) -> None:
        for spec in (*NUMBERS[:4], CATALOGUE["door"].spec, CATALOGUE["image"].spec, Spec("a", "a", "yes_no")):
            try:
                value = read_value(spec, anything)
            except BadQuantity as refused:
                self.assertTrue(str(refused))
            else:
                self.assertIsInstance(value, str | int | float | bool)
                self.assertTrue(text_of(spec, value))

    def test_families_of_units_are_converted(self) -> None:
        for key, written, expected in (
            ("power_limit_w", "65000 mW", 65),
            ("processor_voltage_v", "1250 mV", 1.25),
            ("graphics_memory_gb", "2048 MB", 2),
            ("graphics_memory_gb", "2 GiB", 2),
            ("memory_mts", "5.6 GT/s", 5600),
            ("processor_clock_mhz", "4.6 GHz", 4600),
        ):
            with self.subTest(written=written):
                self.assertAlmostEqual(float(read_setting(key, written)), expected)

    def test_a_typed_whole_number_is_the_number_and_a_version_stays_text(self) -> None:
        self.assertEqual(read_setting("fan_profile", "2"), 2)
        self.assertEqual(read_setting("graphics_driver", "31.10"), "31.10")
        self.assertEqual(read_setting("image", "041"), "041")

    def test_values_are_shown_with_their_unit(self) -> None:
        self.assertEqual(text_of(CATALOGUE["memory_mts"].spec, 5600.0), "5600 MT/s")
        self.assertEqual(text_of(Spec("ecc", "error correction", "yes_no"), False), "no")
        self.assertEqual(text_of(CATALOGUE["image"].spec, None), "not set")


class Schemas(unittest.TestCase):
    def test_bounds_of_every_schema_are_a_range(self) -> None:
        for spec in NUMBERS:
            if spec.low is not None and spec.high is not None:
                self.assertLess(spec.low, spec.high, spec.key)

    def test_keys_are_unique_within_a_kind(self) -> None:
        for kind in KINDS.values():
            keys = [spec.key for spec in kind.attributes]
            self.assertEqual(len(keys), len(set(keys)), kind.key)

    @given(
        st.lists(
            st.tuples(st.text(min_size=1, max_size=10), st.text(min_size=1, max_size=20)),
            unique_by=lambda t: t[0].strip(),
        )
    )
    def test_free_attributes_are_kept_as_they_are(self, pairs: list[tuple[str, str]]) -> None:
        given_ = [
            {"key": key, "value": value, "source": "belief"} for key, value in pairs if key.strip() and value.strip()
        ]
        known = {spec.key for spec in KINDS["case"].attributes}
        given_ = [one for one in given_ if one["key"].strip() not in known]
        read = read_attributes("case", given_)
        self.assertEqual([one.key for one in read], [one["key"].strip() for one in given_])
        self.assertTrue(all(one.source in SOURCES for one in read))

    def test_a_tweak_names_its_device_and_its_state(self) -> None:
        setting = setting_of("tweak.network card.sleep")
        self.assertEqual((setting.group, setting.spec.choices), ("tweaks", ("off", "applied", "verified")))
        self.assertEqual(read_setting("tweak.network card.sleep", "verified"), "verified")


class Agreement(unittest.TestCase):
    @given(st.floats(0.1, 1e5), st.floats(-0.049, 0.049))
    def test_within_five_percent_is_the_same(self, value: float, off: float) -> None:
        self.assertFalse(disagrees(value, value * (1 + off)))

    @given(st.floats(0.1, 1e5), st.floats(0.051, 3), st.booleans())
    def test_beyond_it_is_not(self, value: float, off: float, under: bool) -> None:
        self.assertTrue(disagrees(value, value * (1 - min(off, 0.99)) if under else value * (1 + off)))

    @given(st.one_of(st.integers(), st.text(), st.booleans()))
    def test_a_value_agrees_with_itself(self, value: Value) -> None:
        self.assertFalse(disagrees(value, value))


class Clocks(unittest.TestCase):
    RATE = Spec("memory_mts", "memory speed", "number", "MT/s", 100, 20_000)

    def test_a_clock_typed_for_a_rate_is_offered_the_rate(self) -> None:
        for text in ("2800 MHz", "2.8 GHz"):
            with self.assertRaisesRegex(BadQuantity, "2800 MHz is a clock.*5600 MT/s"):
                read_value(self.RATE, text)

    def test_the_rate_itself_is_taken(self) -> None:
        self.assertEqual(read_value(self.RATE, "5600 MT/s"), 5600)
        self.assertEqual(read_value(self.RATE, "5.6 GT/s"), 5600)
