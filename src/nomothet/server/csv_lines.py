"""Comma-separated values (RFC 4180), the same way in every export."""

import csv
import io
from collections.abc import Iterable, Iterator


def csv_lines(rows: Iterable[list[object]]) -> Iterator[str]:
    """Rows as lines; None is an empty field.

    Text that a spreadsheet would run as a formula is quoted with an apostrophe.
    """
    text = io.StringIO()
    writer = csv.writer(text)
    for row in rows:
        writer.writerow(["" if field is None else _harmless(field) for field in row])
        yield text.getvalue()
        text.seek(0)
        text.truncate()


def _harmless(field: object) -> object:
    if isinstance(field, str) and field[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + field
    return field
