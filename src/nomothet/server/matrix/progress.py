"""The Progress lens: passes kept, owed, running, failed, flagged and set aside."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.models import Entry, State
from nomothet.server.matrix.figures import Evidence
from nomothet.server.reviews.models import Review

CellKey = tuple[int, int]


@dataclass(frozen=True)
class Pip:
    """One pass in a cell: kept, flagged, failed or set_aside."""

    pass_id: str
    number: int
    state: str
    words: str


@dataclass(frozen=True)
class Running:
    entry: int
    number: int
    progress: dict[str, Any]
    stop_wanted: bool


@dataclass(frozen=True)
class ProgressCell:
    pips: list[Pip]
    owed: int
    running: list[Running]
    notes: list[str]


@dataclass(frozen=True)
class Totals:
    kept: int
    owed: int
    running: int
    failed: int
    flagged: int
    set_aside: int


def progress(
    review: Review, evidence: Evidence, flagged: Mapping[CellKey, Mapping[int, str]], notes: Mapping[CellKey, list[str]]
) -> tuple[dict[CellKey, ProgressCell], Totals]:
    """Progress of every cell that has a pass or owes one.

    Parameters
    ----------
    flagged : mapping of cell to mapping of pass number to words
        Passes that are conspicuous, and why.
    notes : mapping of cell to list of str
        Flags that concern a cell as a whole.
    """
    pips: dict[CellKey, list[Pip]] = defaultdict(list)
    for row in evidence.passes:
        cell = (row.test, row.column)
        pips[cell].append(_pip(row.id, row.number, row.outcome, row.set_aside, row.note, flagged.get(cell, {})))
    owed: dict[CellKey, int] = defaultdict(int)
    running: dict[CellKey, list[Running]] = defaultdict(list)
    for entry in Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING]):
        cell = (entry.test_id, entry.column_id)
        if entry.state == State.OWED:
            owed[cell] += 1
        else:
            running[cell].append(Running(entry.pk, entry.number, entry.progress, entry.stop_wanted))
    cells = {
        cell: ProgressCell(pips.get(cell, []), owed.get(cell, 0), running.get(cell, []), notes.get(cell, []))
        for cell in {*pips, *owed, *running}
    }
    return cells, _totals(cells)


def _pip(pass_id: str, number: int, outcome: str, aside: bool, note: str, flagged: Mapping[int, str]) -> Pip:
    if aside:
        return Pip(pass_id, number, "set_aside", "set aside")
    if outcome != "completed":
        return Pip(pass_id, number, "failed", " ".join(filter(None, [OUTCOMES[outcome], note and f"({note})"])))
    if number in flagged:
        return Pip(pass_id, number, "flagged", flagged[number])
    return Pip(pass_id, number, "kept", "kept")


def _totals(cells: Mapping[CellKey, ProgressCell]) -> Totals:
    states = [pip.state for cell in cells.values() for pip in cell.pips]
    return Totals(
        kept=states.count("kept") + states.count("flagged"),
        owed=sum(cell.owed for cell in cells.values()),
        running=sum(len(cell.running) for cell in cells.values()),
        failed=states.count("failed"),
        flagged=states.count("flagged"),
        set_aside=states.count("set_aside"),
    )
