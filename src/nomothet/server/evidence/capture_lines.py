"""A capture as comma-separated values."""

from collections.abc import Iterator

from nomothet.formats.series import unpack
from nomothet.server.csv_lines import csv_lines
from nomothet.server.passes.models import Series


def capture_lines(series: Series) -> Iterator[str]:
    """The columns of a capture, one row a line, in full precision."""
    columns = unpack(series.content)
    yield from csv_lines([list(columns)])
    lists = [column.tolist() for column in columns.values()]
    for row in zip(*lists, strict=True):
        yield ",".join("" if value != value else repr(value) for value in row) + "\r\n"
