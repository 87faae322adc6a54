"""The columnar blob: what goes in comes out, and damage is told."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from nomothet.formats.errors import BadSeries
from nomothet.formats.series import pack, unpack

COLUMN = hnp.arrays(
    st.sampled_from([np.float64, np.float32, np.int64, np.int32, np.uint8]), st.integers(0, 200), elements=None
)


class RoundTrip(unittest.TestCase):
    @settings(max_examples=80)
    @given(COLUMN)
    def test_every_bit_comes_back(self, column: np.ndarray) -> None:
        found = unpack(pack({"value": column}))["value"]
        self.assertEqual(found.dtype, column.dtype)
        self.assertEqual(found.tobytes(), column.tobytes())

    @settings(max_examples=80)
    @given(st.lists(st.decimals(-2000, 2000, places=4, allow_nan=False).map(float), max_size=200))
    def test_numbers_of_a_few_decimals_come_back_to_the_last_bit(self, values: list[float]) -> None:
        column = np.array(values)
        self.assertEqual(unpack(pack({"value": column}))["value"].tobytes(), column.tobytes())

    def test_numbers_that_only_begin_with_few_decimals_come_back_too(self) -> None:
        for last in (1 / 3, np.nan, np.inf, -0.0, 1e300, 3e9):
            column = np.append(np.round(np.linspace(1, 9, 600), 2), last)
            self.assertEqual(unpack(pack({"value": column}))["value"].tobytes(), column.tobytes())

    def test_a_file_of_frame_times_takes_about_two_bytes_a_frame(self) -> None:
        frames = np.random.default_rng(3).normal(10, 0.5, 100_000).round(4)
        self.assertLess(len(pack({"frame_ms": frames})), 2.2 * len(frames))

    def test_several_columns_keep_their_names_and_order(self) -> None:
        t = np.linspace(0, 1, 50)
        found = unpack(pack({"t_s": t, "value": t * 3}))
        self.assertEqual(list(found), ["t_s", "value"])
        np.testing.assert_array_equal(found["value"], t * 3)

    def test_steady_readings_become_small(self) -> None:
        t = np.arange(0, 600, 0.25)
        self.assertLess(len(pack({"t_s": t, "value": np.round(60 + np.sin(t), 1)})), len(t) * 16 / 3)


class Damage(unittest.TestCase):
    def setUp(self) -> None:
        self.blob = pack({"value": np.arange(100.0)})

    def test_any_cut_is_noticed(self) -> None:
        for length in range(len(self.blob)):
            with self.subTest(length=length), self.assertRaises(BadSeries):
                unpack(self.blob[:length])

    def test_other_bytes_are_not_a_series(self) -> None:
        with self.assertRaisesRegex(BadSeries, "not a series"):
            unpack(b"frame_ms\n16.7\n")

    def test_a_claim_of_gigabytes_is_refused_before_memory_is_taken(self) -> None:
        huge = self.blob.replace(b'"count":100', b'"count":9999999999')
        length = len(self.blob) - len(huge)
        head = int.from_bytes(huge[4:8], "little") - length
        with self.assertRaisesRegex(BadSeries, "1 GiB"):
            unpack(huge[:4] + head.to_bytes(4, "little") + huge[8:])

    def test_an_unknown_type_is_refused(self) -> None:
        with self.assertRaises(BadSeries):
            unpack(self.blob.replace(b"<f8", b"|O8"))

    def test_columns_of_two_lengths_are_refused(self) -> None:
        with self.assertRaisesRegex(BadSeries, "one length"):
            pack({"t_s": np.arange(3.0), "value": np.arange(4.0)})
