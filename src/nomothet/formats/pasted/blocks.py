"""From pasted text to values that know their row and their column."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import re2

from nomothet.formats.pasted.grids import grids_of
from nomothet.formats.pasted.labels import NOTHING, SKIP, Labels, Says

Axis = Literal["row", "column"]
_MOST_HEADS = 4
# A longer number over a column is no run: 1440 is a resolution.
_RUN_DIGITS = 2
_NUMBER = r"[~≈<>≤≥]?\s*[+−-]?\d[\d.,:]*(?:\s*(?:–|—|\.\.|±|\+/-|-)\s*\d[\d.,]*)?"
_UNIT = r"(?:\pL{1,6}|°C|%|dB\(A\)|1/min)"
# What people paste is matched in linear time, whatever it is.
_VALUE = re2.compile(
    rf"(?i)(?:{_NUMBER}\s*{_UNIT}?(?:\s*@\s*\d+\s*/\s*\d+)?)(?:[\s;|]+{_NUMBER})*"
    r"|[nrchvos](?:\s*\([^()]*\))?|[-–—x?]"
)
# Heads of what is worked out of the runs beside it.
_DERIVED = ("mean", "average", "avg", "median", "best", "sd", "stdev", "spread", "mean of runs", "average of runs", "n")


@dataclass(frozen=True)
class Correction:
    """How somebody reads a row or a column: all of that label, or the one at a place where it has none."""

    axis: Axis
    label: str
    block: int
    at: int
    says: Says

    def holds(self, axis: Axis, label: str, block: int, at: int) -> bool:
        if axis != self.axis:
            return False
        return label == self.label if self.label else (block, at) == (self.block, self.at)


@dataclass(frozen=True)
class Line:
    """A row or a column: its label, and what that says. `unknown` where it names nothing that is known."""

    label: str
    says: Says
    unknown: bool


@dataclass(frozen=True)
class Block:
    """One table of what was pasted; `values` are by row and column, empty where a cell is."""

    title: str
    of_all: Says
    rows: list[Line] = field(default_factory=list)
    columns: list[Line] = field(default_factory=list)
    values: list[list[str]] = field(default_factory=list)

    def says(self, row: int, column: int) -> Says:
        """What a value is of; a column goes before a row, and both before the block's title."""
        return self.columns[column].says.over(self.rows[row].says).over(self.of_all)


def read_blocks(text: str, labels: Labels, corrections: Sequence[Correction] = ()) -> list[Block]:
    """Read what was pasted.

    Blocks are parted by empty lines; a line with a single cell before a block names all of it. Empty heads are those to
    their left, empty labels those above them, as in a spreadsheet with merged cells.

    Raises
    ------
    FormatError
        Where nothing was pasted, or more than `MOST_VALUES` values.
    """
    grids = grids_of(text)
    blocks: list[Block] = []
    title = ""
    for grid in grids:
        filled = [cell for line in grid for cell in line if cell]
        if len(filled) == 1 and not _is_value(filled[0], labels):
            title = filled[0]
            continue
        own = grid[0]
        if len(grid) > 1 and len([cell for cell in own if cell]) == 1 and own[0] and not _is_value(own[0], labels):
            # A title that stands right above its table.
            below = grid[1]
            if len([cell for cell in below if cell]) > 1:
                title, grid = own[0], grid[1:]
        blocks.append(_block(grid, title, labels, corrections, len(blocks)))
    return blocks


def _block(grid: list[list[str]], title: str, labels: Labels, corrections: Sequence[Correction], at: int) -> Block:
    heads, firsts = _edges(grid, labels)
    body = [line[firsts:] for line in grid[heads:]]
    columns = [
        _line("column", _column_labels(grid, heads, firsts + column), labels, corrections, at, column)
        for column in range(len(grid[0]) - firsts)
    ]
    above = [""] * firsts
    rows = []
    for row, line in enumerate(grid[heads:]):
        above = [cell or before for cell, before in zip(line[:firsts], above, strict=True)]
        rows.append(_line("row", above, labels, corrections, at, row, _run_column(grid, heads, firsts)))
    return Block(title, labels.says(title) or NOTHING, rows, _derived(columns), body)


def _edges(grid: list[list[str]], labels: Labels) -> tuple[int, int]:
    """How many lines are heads, and how many columns are labels."""
    heads = 0
    while heads < min(_MOST_HEADS, len(grid) - 1) and _is_head(grid[heads], labels):
        heads += 1
    if heads == 0 and len(grid) > 1 and _counts_up(grid[0]):
        heads = 1
    firsts = 0
    body = grid[heads:]
    while firsts < len(grid[0]) - 1 and _is_label([line[firsts] for line in body], labels, grid, heads, firsts):
        firsts += 1
    return heads, firsts


def _is_head(line: Sequence[str], labels: Labels) -> bool:
    filled = [cell for cell in line[1:] if cell] or [cell for cell in line if cell]
    return 2 * sum(_is_value(cell, labels) for cell in filled) < len(filled)


def _counts_up(line: Sequence[str]) -> bool:
    """1, 2, 3 … over the values: the numbers of runs."""
    numbers = [cell for cell in line if cell]
    return len(numbers) > 1 and numbers == [str(at + 1) for at in range(len(numbers))]


def _is_label(cells: Sequence[str], labels: Labels, grid: list[list[str]], heads: int, at: int) -> bool:
    if heads and _run_head(grid[heads - 1][at]):
        return True
    filled = [cell for cell in cells if cell]
    return bool(filled) and 2 * sum(_is_value(cell, labels) for cell in filled) < len(filled)


def _run_head(cell: str) -> bool:
    return cell.strip().lower().rstrip(".") in ("run", "runs", "pass", "passes", "lap", "no", "nr", "#")


def _run_column(grid: list[list[str]], heads: int, firsts: int) -> int | None:
    """Which label column numbers the runs."""
    return next((at for at in range(firsts) if heads and _run_head(grid[heads - 1][at])), None)


def _is_value(cell: str, labels: Labels) -> bool:
    return _VALUE.fullmatch(" ".join(cell.split())) is not None and labels.says(cell) is None


def _column_labels(grid: list[list[str]], heads: int, column: int) -> list[str]:
    """The heads of a column from the top; an empty one is that to its left, but in the last line of heads."""
    found = []
    for line in range(heads):
        at = column
        while at > 0 and not grid[line][at] and line < heads - 1:
            at -= 1
        found.append(grid[line][at])
    return found


def _line(
    axis: Axis,
    cells: Sequence[str],
    labels: Labels,
    corrections: Sequence[Correction],
    block: int,
    at: int,
    runs: int | None = None,
) -> Line:
    filled = [cell for cell in cells if cell]
    label = " · ".join(filled)
    corrected = next((one for one in reversed(corrections) if one.holds(axis, label, block, at)), None)
    if corrected is not None:
        return Line(label, corrected.says, False)
    if axis == "column" and len(filled) == 1 and filled[0].isdigit() and len(filled[0]) <= _RUN_DIGITS:
        return Line(label, Says(run=int(filled[0])), False)
    says, unknown = NOTHING, False
    numbered = cells[runs] if runs is not None else ""
    if numbered.isdigit():
        says = Says(run=int(numbered))
        filled = [cell for place, cell in enumerate(cells) if cell and place != runs]
    told = [labels.says(cell) for cell in filled]
    if None in told and len(filled) > 1:
        # Neither names it alone, as where the workload stands in one column and its scene in the next.
        together = labels.says(" ".join(filled))
        if together is not None:
            return Line(label, together.over(says), False)
    for one in told:
        says = says if one is None else says.over(one)
    return Line(label, says, unknown or None in told)


def _derived(columns: list[Line]) -> list[Line]:
    """Beside numbered runs, what is worked out of them is no run of its own."""
    if sum(column.says.run is not None for column in columns) < 2:
        return columns
    return [
        Line(one.label, SKIP, False)
        if one.says.run is None and one.label.split(" · ")[-1].strip().lower() in _DERIVED
        else one
        for one in columns
    ]


def numbered(places: Sequence[tuple[object, ...]]) -> list[int]:
    """The how-manieth of its like each place is, from 1."""
    seen: dict[tuple[object, ...], int] = {}
    found = []
    for place in places:
        seen[place] = seen.get(place, 0) + 1
        found.append(seen[place])
    return found


def with_unit(text: str, unit: str) -> str:
    """A plain number of a column that is in a unit of its own, with that unit.

    >>> with_unit("12.5", "min"), with_unit("12:30", "min"), with_unit("c", "min")
    ('12.5 min', '12:30', 'c')
    """
    return f"{text} {unit}" if unit and re.fullmatch(r"[~<>≈≤≥]?\s*[+−-]?\d+(?:[.,]\d+)?", text) else text
