"""Pasted text cut into cells, and its lines into blocks; every step is linear in the length of the text."""

import csv
import io
import re
from collections.abc import Sequence

from nomothet.formats.errors import FormatError

MOST_VALUES = 2000
# With its labels a table has more cells than values.
_MOST_CELLS = 2 * MOST_VALUES
_RULE = frozenset(" \t|:-")


def cells_by_line(text: str) -> list[list[str]]:
    """The cells of each line, parted by tabs, bars, semicolons or wide gaps; none for an empty line.

    >>> cells_by_line("workload | preset\\nSilt | high")
    [['workload', 'preset'], ['Silt', 'high']]
    """
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    delimiter = _delimiter([line for line in lines if line.strip()])
    # The rule under the head of a table that is drawn with bars is no line of it.
    drawn = [line for line in lines if not (delimiter == "|" and "-" in line and set(line) <= _RULE)]
    return [cells if any(cells := _cells(line, delimiter)) else [] for line in drawn]


def grids_of(text: str) -> list[list[list[str]]]:
    """Blocks of cells, parted by empty lines; every line of a block is as long as its longest.

    Raises
    ------
    FormatError
        Where nothing was pasted, or more than `MOST_VALUES` values.
    """
    grids: list[list[list[str]]] = [[]]
    for cells in cells_by_line(text):
        if cells:
            grids[-1].append(cells)
        elif grids[-1]:
            grids.append([])
    grids = [grid for grid in grids if grid]
    if not grids:
        raise FormatError("Nothing was pasted; copy the cells of a table and paste again.")
    widths = [max(map(len, grid)) for grid in grids]
    if sum(width * len(grid) for width, grid in zip(widths, grids, strict=True)) > _MOST_CELLS:
        raise FormatError(f"That is more than {MOST_VALUES} values; paste it in parts.")
    return [[line + [""] * (width - len(line)) for line in grid] for width, grid in zip(widths, grids, strict=True)]


def _delimiter(lines: Sequence[str]) -> str:
    if any("\t" in line for line in lines):
        return "\t"
    for sign in ("|", ";"):
        if lines and 2 * sum(sign in line for line in lines) >= len(lines):
            return sign
    return "  " if any("  " in line.strip() for line in lines) else "\t"


def _cells(line: str, delimiter: str) -> list[str]:
    if delimiter == "  ":
        return [cell.strip() for cell in re.split(r" {2,}", line.rstrip())]
    if delimiter == "|":
        return [cell.strip() for cell in line.strip().strip("|").split("|")]
    try:
        return [cell.strip() for cell in next(csv.reader(io.StringIO(line), delimiter=delimiter), [])]
    except csv.Error:
        raise FormatError("A cell of the table is far too long; copy the cells alone and paste again.") from None
