"""The Progress lens: passes kept, owed, running, failed, flagged and set aside."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.models import Entry, State
from nomothet.server.matrix.figures import PassRow
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain


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


def progress(review: Review, parts: Sequence[Any]) -> tuple[dict[int, dict[str, Any]], Totals]:
    """Progress of every cell that has a pass or owes one, as plain data by test and column; one query.

    Parameters
    ----------
    parts : sequence of Part as plain data
        The pips of each test's passes, and the flags of its cells.
    """
    owed: dict[tuple[int, str], list[int]] = defaultdict(list)
    running: dict[tuple[int, str], list[Any]] = defaultdict(list)
    entries = Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING])
    for entry in entries.select_related("by_hand").defer("attempts").order_by("number"):
        cell = (entry.test_id, str(entry.column_id))
        if entry.state == State.OWED:
            owed[cell].append(entry.pk)
            continue
        by_hand = entry.by_hand.display_name if entry.by_hand else ""
        told = Running(entry.pk, entry.number, entry.progress, entry.stop_wanted, entry.told_at, by_hand)
        running[cell].append(plain(told))
    shown: dict[int, dict[str, Any]] = {}
    for part in parts:
        test = part["test"]
        asked = {column for of, column in (*owed, *running) if of == test}
        shown[test] = {
            column: {
                "pips": part["pips"].get(column, []),
                "owed": len(owed.get((test, column), [])),
                "next_owed": next(iter(owed.get((test, column), [])), None),
                "running": running.get((test, column), []),
                "notes": part["notes"].get(column, []),
            }
            for column in {**part["pips"], **dict.fromkeys(sorted(asked))}
        }
    return shown, _totals([cell for cells in shown.values() for cell in cells.values()])


def pip_of(row: PassRow, flagged: Mapping[int, str]) -> Pip:
    """A pass as a pip; `flagged` says why passes are conspicuous, by their number."""
    return _pip(row.id, row.number, row.outcome, row.set_aside, row.note, flagged)


def _pip(pass_id: str, number: int, outcome: str, aside: bool, note: str, flagged: Mapping[int, str]) -> Pip:
    if aside:
        return Pip(pass_id, number, "set_aside", "set aside")
    if outcome != "completed":
        return Pip(pass_id, number, "failed", " ".join(filter(None, [OUTCOMES[outcome], note and f"({note})"])))
    if number in flagged:
        return Pip(pass_id, number, "flagged", flagged[number])
    return Pip(pass_id, number, "kept", "kept")


def _totals(cells: Sequence[Any]) -> Totals:
    states = [pip["state"] for cell in cells for pip in cell["pips"]]
    return Totals(
        kept=states.count("kept") + states.count("flagged"),
        owed=sum(cell["owed"] for cell in cells),
        running=sum(len(cell["running"]) for cell in cells),
        failed=states.count("failed"),
        flagged=states.count("flagged"),
        set_aside=states.count("set_aside"),
    )
