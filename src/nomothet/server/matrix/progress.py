"""The Progress lens: passes kept, owed, running, failed, flagged and set aside."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
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
    # When its bench last told of it, and who runs it where no bench does.
    told_at: datetime | None
    by_hand: str


@dataclass(frozen=True)
class ProgressCell:
    pips: list[Pip]
    owed: int
    # The entry that comes first of those owed.
    next_owed: int | None
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
    owed: dict[CellKey, list[int]] = defaultdict(list)
    running: dict[CellKey, list[Running]] = defaultdict(list)
    entries = Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING])
    for entry in entries.select_related("by_hand").defer("attempts").order_by("number"):
        cell = (entry.test_id, entry.column_id)
        if entry.state == State.OWED:
            owed[cell].append(entry.pk)
            continue
        by_hand = entry.by_hand.display_name if entry.by_hand else ""
        told = Running(entry.pk, entry.number, entry.progress, entry.stop_wanted, entry.told_at, by_hand)
        running[cell].append(told)
    cells = {
        cell: ProgressCell(
            pips.get(cell, []),
            len(owed.get(cell, [])),
            next(iter(owed.get(cell, [])), None),
            running.get(cell, []),
            notes.get(cell, []),
        )
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
