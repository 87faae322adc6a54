"""Comma-separated values (RFC 4180), the same way in every export."""

import csv
import io
from collections.abc import Iterable, Iterator

# How texts begin that a spreadsheet runs; no text at all begins with nothing.
_FORMULAS = frozenset("=+-@\t\r")


def csv_lines(rows: Iterable[list[object]]) -> Iterator[str]:
    """Rows as lines; None is an empty field.

    Text that a spreadsheet would run as a formula is quoted with an apostrophe.
    """
    text = io.StringIO()
    writer = csv.writer(text)
    for row in rows:
        writer.writerow([_harmless(field) if isinstance(field, str) else field for field in row])
        yield text.getvalue()
        text.seek(0)
        text.truncate()


def csv_fields(fields: list[object]) -> str:
    """Fields as the beginning or the end of a line, to be put together with others by commas."""
    return next(csv_lines([fields])).removesuffix("\r\n")


def _harmless(field: str) -> str:
    return "'" + field if field[:1] in _FORMULAS else field
