"""The Progress lens: passes kept, owed, running, failed, flagged and set aside."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.core.notes import note
from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.models import Entry, State
from nomothet.server.evidence.figures import PassRow
from nomothet.server.matrix.flags import FLAGS, flagged_passes
from nomothet.server.matrix.lens import Context, Lens, LensResults
from nomothet.server.reviews.models import Review, Test
from nomothet.words import say


@dataclass(frozen=True)
class Pip:
    """One pass in a cell: kept, first (a first run), flagged, failed, blocked or set_aside."""

    pass_id: str
    number: int
    state: str
    words: str


@dataclass(frozen=True)
class PassesResult:
    """The passes of a test that are in, by column."""

    pips: dict[str, list[Pip]]
    # When they ran.
    ran: dict[str, list[datetime]]
    # Why a cell whose passes are kept has no figures.
    no_figures: dict[str, str]
    # Kept passes that are still to be computed anew.
    recounting: int


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
    # What stands where a figure is missing: what failed, what is owed, what was never asked for.
    said: str


@dataclass(frozen=True)
class Totals:
    kept: int
    # First runs, which are a group of their own.
    first: int
    owed: int
    running: int
    failed: int
    flagged: int
    set_aside: int


@dataclass(frozen=True)
class Docketed:
    """What the docket still holds of a review, by test and column."""

    owed: dict[tuple[int, str], list[int]]
    running: dict[tuple[int, str], list[Running]]

    def columns(self, test: int) -> list[str]:
        """Columns with something owed or running in a test."""
        return sorted({column for of, column in (*self.owed, *self.running) if of == test})


def docketed(review: Review) -> Docketed:
    """What is owed and running; two queries. Thousands may be owed: these are read without making entries of them."""
    owed: dict[tuple[int, str], list[int]] = defaultdict(list)
    running: dict[tuple[int, str], list[Running]] = defaultdict(list)
    entries = Entry.objects.filter(test__review=review, recorder="").order_by("number")
    for test, column, pk in entries.filter(state=State.OWED).values_list("test_id", "column_id", "pk"):
        owed[test, str(column)].append(pk)
    for entry in entries.filter(state=State.RUNNING).select_related("by_hand").defer("attempts"):
        cell = (entry.test_id, str(entry.column_id))
        by_hand = entry.by_hand.display_name if entry.by_hand else ""
        running[cell].append(Running(entry.pk, entry.number, entry.progress, entry.stop_wanted, entry.told_at, by_hand))
    return Docketed(owed, running)


def progress_cells(test: int, result: PassesResult, docket: Docketed) -> dict[str, ProgressCell]:
    """Progress of every cell of a test that has a pass or owes one, by column."""
    return {
        column: _cell(
            result.pips.get(column, []),
            docket.owed.get((test, column), []),
            docket.running.get((test, column), []),
            result.no_figures.get(column, ""),
        )
        for column in {**result.pips, **dict.fromkeys(docket.columns(test))}
    }


def _cell(pips: list[Pip], owed: list[int], running: list[Running], no_figures: str) -> ProgressCell:
    states = {pip.state for pip in pips}
    failed = dict.fromkeys(pip.words for pip in pips if pip.state == "failed") if "failed" in states else {}
    said = note(
        "no_figure",
        running=len(running),
        failed=list(failed),
        blocked="blocked" in states,
        kept=not states.isdisjoint(("kept", "flagged")),
        why=no_figures,
        aside=states == {"set_aside"},
        owed=len(owed),
    )
    return ProgressCell(pips, len(owed), owed[0] if owed else None, running, say(said))


def pip_of(row: PassRow, flagged: Mapping[int, str], blocked: Mapping[int, str]) -> Pip:
    """A pass as a pip.

    Parameters
    ----------
    flagged, blocked : mapping of pass number to words
        Why passes are conspicuous, and why some were run as another test.
    """
    if row.set_aside:
        return Pip(row.id, row.number, "set_aside", "set aside")
    if row.outcome != "completed":
        words = " ".join(filter(None, [OUTCOMES[row.outcome], row.note and f"({row.note})"]))
        return Pip(row.id, row.number, "failed", words)
    if row.run_group:
        return Pip(row.id, row.number, "first", "first run after a start, compared with its like only")
    if row.number in blocked:
        return Pip(row.id, row.number, "blocked", f"not averaged: {blocked[row.number]}")
    if row.number in flagged:
        return Pip(row.id, row.number, "flagged", flagged[row.number])
    return Pip(row.id, row.number, "kept", "kept")


def _build(context: Context, test: Test, results: LensResults) -> PassesResult:
    evidence = context.evidence
    flagged = {column: flagged_passes(own) for column, own in results.of(FLAGS).items()}
    pips: dict[str, list[Pip]] = defaultdict(list)
    ran: dict[str, list[datetime]] = defaultdict(list)
    for row in evidence.passes:
        if row.test == test.pk:
            column = str(row.column)
            blocked = evidence.blocked.get((test.pk, row.column), {})
            pips[column].append(pip_of(row, flagged.get(column, {}), blocked))
            ran[column].append(row.started_at)
    no_figures = {
        str(column): why
        for (of, column), found in evidence.looked_at.items()
        if of == test.pk and (why := next((one.no_figures for one in found if one.no_figures), ""))
    }
    return PassesResult(dict(pips), dict(ran), no_figures, evidence.recounting[test.pk])


PASSES = Lens("passes", PassesResult, _build, needs=(FLAGS,))


def totals_of(cells: Sequence[ProgressCell]) -> Totals:
    """Passes of a review by their state."""
    states = [pip.state for cell in cells for pip in cell.pips]
    return Totals(
        kept=states.count("kept") + states.count("flagged"),
        first=states.count("first"),
        owed=sum(cell.owed for cell in cells),
        running=sum(len(cell.running) for cell in cells),
        failed=states.count("failed"),
        flagged=states.count("flagged") + states.count("blocked"),
        set_aside=states.count("set_aside"),
    )
