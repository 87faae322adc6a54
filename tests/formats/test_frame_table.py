"""Frame times from delimited text: what is understood, and how refusals name row and remedy."""

import io
import unittest

import numpy as np

from nomothet.formats.errors import BadTable
from nomothet.formats.frame_table import FrameTable, read_frame_table


def read(text: str | bytes, **options: str) -> FrameTable:
    return read_frame_table(io.BytesIO(text.encode() if isinstance(text, str) else text), **options)


class Understood(unittest.TestCase):
    def test_a_header_and_milliseconds(self) -> None:
        table = read("frame_ms\n16.5\n17.25\n")
        self.assertEqual(table.frame_times_ms.tolist(), [16.5, 17.25])
        self.assertEqual((table.kind, table.unit, table.column), ("frame times", "ms", "frame_ms"))

    def test_any_header_of_a_single_column(self) -> None:
        self.assertEqual(read("whatever\n16.5\n17\n").frame_times_ms.tolist(), [16.5, 17.0])

    def test_no_header_at_all(self) -> None:
        self.assertEqual(read("16.5\n17\n").frame_times_ms.tolist(), [16.5, 17.0])

    def test_windows_line_ends_a_byte_order_mark_and_blank_lines_at_the_end(self) -> None:
        self.assertEqual(read(b"\xef\xbb\xbfframe_ms\r\n16.5\r\n17\r\n\r\n").frame_times_ms.tolist(), [16.5, 17.0])

    def test_seconds_by_the_columns_name_and_by_the_option(self) -> None:
        np.testing.assert_allclose(read("frame_s\n0.0165\n0.017\n").frame_times_ms, [16.5, 17.0])
        np.testing.assert_allclose(read("x\n0.0165\n0.017\n", unit="s").frame_times_ms, [16.5, 17.0])

    def test_the_one_column_that_speaks_of_frames_is_taken(self) -> None:
        for text in ("index,frame_ms,power\n1,16.5,20\n2,17,21\n", "index;frame_ms;power\n1;16.5;20\n2;17;21\n"):
            self.assertEqual(read(text).frame_times_ms.tolist(), [16.5, 17.0])

    def test_a_count_of_frames_is_no_frame_time(self) -> None:
        rows = "\n".join(f"{n},{16_000 * n}" for n in range(1, 40))
        for text in (f"frame,timestamp_us\n{rows}", f"Frame Nr,time us\n{rows}"):
            table = read(text)
            self.assertEqual((table.kind, table.unit), ("timestamps", "us"))
            np.testing.assert_allclose(table.frame_times_ms, np.full(38, 16.0))

    def test_a_named_column_goes_before(self) -> None:
        self.assertEqual(read("frame_ms,other\n16,5\n17,6\n", column="other").frame_times_ms.tolist(), [5.0, 6.0])

    def test_timestamps_in_every_unit(self) -> None:
        stamps = np.cumsum([0.0, *[16.0, 17.0, 18.0, 16.5] * 5])
        for unit, factor in (("s", 0.001), ("ms", 1.0), ("us", 1e3), ("ns", 1e6)):
            text = "time\n" + "\n".join(repr(float(value)) for value in stamps * factor)
            table = read(text)
            with self.subTest(unit=unit):
                self.assertEqual((table.kind, table.unit), ("timestamps", unit))
                np.testing.assert_allclose(table.frame_times_ms, np.diff(stamps), rtol=1e-9)

    def test_rising_numbers_without_a_telling_name_are_timestamps(self) -> None:
        text = "x\n" + "\n".join(str(16.0 * n) for n in range(40))
        self.assertEqual(read(text).kind, "timestamps")

    def test_a_decimal_comma_and_thousands(self) -> None:
        self.assertEqual(read("frame_ms;power\n16,5;20\n17,25;21\n").frame_times_ms.tolist(), [16.5, 17.25])
        self.assertEqual(read("n;frame_us\n1;16,500.0\n2;17,000.5\n").frame_times_ms.tolist(), [16.5, 17.0005])

    def test_another_encoding_is_read(self) -> None:
        text = "frame_ms;Wärme\n16,5;40\n17;41\n"
        for encoding in ("latin-1", "utf-16"):
            self.assertEqual(read(text.encode(encoding)).frame_times_ms.tolist(), [16.5, 17.0])

    def test_frame_times_that_happen_to_rise_stay_frame_times(self) -> None:
        text = "frame_ms\n" + "\n".join(str(16.0 + n / 10) for n in range(40))
        self.assertEqual(read(text).kind, "frame times")


class Refused(unittest.TestCase):
    def check(self, text: str | bytes, row: int | None, words: str, **options: str) -> None:
        with self.assertRaises(BadTable) as caught:
            read(text, **options)
        self.assertEqual(caught.exception.row, row)
        self.assertRegex(str(caught.exception), words)
        self.assertTrue(caught.exception.remedy)

    def test_a_word_among_numbers_names_its_row(self) -> None:
        self.check("frame_ms\n16\nabc\n17\n", 3, "'abc' is not a number")

    def test_far_down_too(self) -> None:
        self.check("frame_ms\n" + "16\n" * 5000 + "oops\n" + "16\n" * 10, 5002, "row 5002")

    def test_impossible_frame_times_name_their_row(self) -> None:
        self.check("frame_ms\n16\n-4\n", 3, "-4 is not possible")
        self.check("frame_ms\n16\n0\n17\n", 3, "0 is not possible")
        self.check("frame_ms\n16\ninf\n", 3, "inf is not possible")

    def test_a_missing_value_names_its_row(self) -> None:
        self.check("frame_ms,other\n16,1\n,2\n17,3\n", 3, "missing")
        self.check("frame_ms\n16\n\n17\n", 3, "missing")

    def test_lengths_that_no_machine_draws_are_refused_before_anything_is_stored(self) -> None:
        self.check("frame_ms\n" + "".join(f"{40_000 + n}\n" for n in range(30)), None, "median frame would last")
        self.check("frame_ms\n3e+168\n8e+305\n", None, "median frame would last")

    def test_timestamps_that_go_back_name_their_row(self) -> None:
        self.check("time_ms\n" + "".join(f"{16 * n}\n" for n in range(30)) + "100\n", 32, "does not come after")

    def test_unclear_columns_are_listed(self) -> None:
        self.check("a,b\n1,2\n", None, "a, b")

    def test_a_column_that_is_not_there_is_named_with_those_that_are(self) -> None:
        self.check("frame_ms\n16\n", None, "no column 'fps'.*frame_ms", column="fps")

    def test_empty_binary_and_foreign_encodings(self) -> None:
        self.check("", None, "empty")
        self.check("frame_ms\n", None, "no row")
        self.check(b"PK\x03\x04\x00\x00", None, "not a text file")
        self.check("frame_ms\n16\nß\n".encode("latin-1"), 3, "not a number")

    def test_seconds_taken_for_milliseconds_are_noticed(self) -> None:
        self.check("x\n0.0165\n0.017\n0.016\n", None, "seconds")

    def test_an_unknown_unit_is_refused(self) -> None:
        self.check("frame_ms\n16\n", None, "unit 'h'", unit="h")
