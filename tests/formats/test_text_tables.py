"""Counting the rows of a file, beside a plain reading of its lines."""

import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st

from nomothet.formats import text_tables
from nomothet.formats.text_tables import Layout, read_columns, recognise, rows_below

_LINES = st.lists(
    st.tuples(st.sampled_from(["", " ", "\t ", "1", "1,2", " 3", "µ", "4 "]), st.sampled_from(["\n", "\r\n", "\r"])),
    max_size=30,
)


class RowsBelow(unittest.TestCase):
    def setUp(self) -> None:
        self.path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "run.csv"

    def counted(self, text: str, encoding: str, header_lines: int) -> int:
        self.path.write_bytes(text.encode(encoding))
        return rows_below(self.path, Layout(encoding, ",", ".", header_lines, ["a"]))

    @settings(max_examples=150, deadline=None)
    @given(_LINES, st.sampled_from(["utf-8", "utf-8-sig", "latin-1", "utf-16"]), st.integers(0, 4), st.integers(1, 9))
    def test_every_line_that_is_not_blank_is_one(
        self, lines: list[tuple[str, str]], encoding: str, header_lines: int, block: int
    ) -> None:
        text = "".join(line + end for line, end in lines)
        self.path.write_bytes(text.encode(encoding))
        with self.path.open(encoding=encoding, newline=None) as file:
            expected = sum(bool(line.strip()) for line in list(file)[header_lines:])
        with patch.object(text_tables, "_BLOCK_BYTES", block):
            self.assertEqual(self.counted(text, encoding, header_lines), expected)

    def test_a_last_line_without_an_end_is_one_too(self) -> None:
        self.assertEqual(self.counted("a\n1\n2", "utf-8", 1), 2)
        self.assertEqual(self.counted("", "utf-8", 1), 0)


class BelowTheHeader(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(
        st.lists(st.sampled_from(["", "made by a logger", "one\x0bline", '"in quotes"', "µ"]), max_size=5),
        st.sampled_from(["\n", "\r\n", "\r"]),
        st.sampled_from(["utf-8", "utf-8-sig", "cp1252"]),
        st.lists(st.tuples(st.integers(0, 99), st.integers(0, 99)), min_size=12, max_size=20),
    )
    def test_the_first_row_is_read_whatever_stands_above_it(
        self, above: list[str], end: str, encoding: str, rows: list[tuple[int, int]]
    ) -> None:
        content = end.join([*above, "t,load", *(f"{t},{load}" for t, load in rows)]).encode(encoding)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "run.csv"
            path.write_bytes(content)
            columns = read_columns(path, recognise(content))
        self.assertEqual([columns[0].tolist(), columns[1].tolist()], [list(one) for one in zip(*rows, strict=True)])
