"""What ladders have found: for each configuration the most demanding settings that still meet the targets."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.ladder import Descent, RungWord, descend, rung_of
from nomothet.core.notes import Note, note
from nomothet.server.ladders.models import Ladder
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.matrix.progress import ProgressCell
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column, Review
from nomothet.server.reviews.short_names import short_names
from nomothet.words import say


@dataclass(frozen=True)
class RungShape:
    """A rung on a configuration; `word` is met, average only, missed, cannot tell, or empty for not tried."""

    test: int
    name: str
    word: str
    said: list[str]


@dataclass(frozen=True)
class LadderCell:
    """Where a ladder stands on a configuration. `best` is the recommended test, `next` the one to try."""

    word: str
    words: str
    best: int | None
    best_name: str
    next: int | None
    # Whether the next rung is owed by itself once the present one has missed.
    going: bool
    rungs: list[RungShape]


@dataclass(frozen=True)
class LadderShape:
    """A ladder with its rungs, the most demanding first; cells by column id."""

    id: int
    name: str
    tests: list[int]
    names: list[str]
    cells: dict[str, LadderCell]


def ladders(review: Review, shown: MatrixShape | None = None) -> list[LadderShape]:
    """Every ladder of a review; what the matrix has computed is taken where it is given."""
    own = list(review.ladders.prefetch_related("going"))
    if not own:
        return []
    found = shown or matrix(review)
    tests = {test.pk: test for test in review.tests.select_related("workload")}
    columns = list(review.columns.select_related("configuration"))
    rows: dict[int, list[RowShape]] = defaultdict(list)
    for row in found.rows:
        rows[row.test].append(row)
    progress = {(line.test, int(column)): cell for line in found.progress for column, cell in line.cells.items()}
    shapes = []
    for ladder in own:
        rungs = [pk for pk in ladder.rungs if pk in tests]
        names = _names(ladder, {pk: tests[pk] for pk in rungs})
        going = {one.column_id for one in ladder.going.all()}
        cells = {str(column.pk): _cell(column, rungs, names, rows, progress, column.pk in going) for column in columns}
        shapes.append(LadderShape(ladder.pk, ladder.name, rungs, [names[pk] for pk in rungs], cells))
    return shapes


def _names(ladder: Ladder, tests: Mapping[int, object]) -> dict[int, str]:
    """Rungs by what differs between them."""
    short = short_names(tests.values())  # type: ignore[arg-type]
    return {pk: short[pk] or getattr(test, "detail", "") or ladder.name for pk, test in tests.items()}


def _cell(
    column: Column,
    rungs: Sequence[int],
    names: Mapping[int, str],
    rows: Mapping[int, Sequence[RowShape]],
    progress: Mapping[tuple[int, int], ProgressCell],
    going: bool,
) -> LadderCell:
    key = str(column.pk)
    cells = [progress.get((pk, column.pk)) for pk in rungs]
    targets = [[one for row in rows[pk] for one in row.targets.get(key, [])] for pk in rungs]
    words = [
        _word([one.code for one in told], cell, _waits_for_low(rows[pk], key))  # type: ignore[misc]
        for pk, told, cell in zip(rungs, targets, cells, strict=True)
    ]
    descent = descend(words)
    shapes = [
        RungShape(pk, names[pk], word or "", [one.words for one in told])
        for pk, word, told in zip(rungs, words, targets, strict=True)
    ]
    judged = any(told for told in targets) or any(words)
    best = None if descent.best is None else rungs[descent.best]
    following = None if descent.next is None or column.configuration.blocked else rungs[descent.next]
    found = _found(column, descent, [names[pk] for pk in rungs], words, cells, judged)
    return LadderCell(
        word="open" if not judged else descent.word,
        words=say(found),
        best=best,
        best_name=names[best] if best is not None else "",
        next=following,
        going=going,
        rungs=shapes,
    )


def _waits_for_low(rows: Sequence[RowShape], column: str) -> bool:
    """Whether the averages of a cell are in and its lows are not: somebody may be typing them."""
    averages = any(row.metric == "average_fps" and column in row.cells for row in rows)
    return averages and any(
        row.metric.startswith("low_1pct") and not row.kind and column not in row.cells for row in rows
    )


def _word(codes: Sequence[RungWord], cell: ProgressCell | None, waits: bool) -> RungWord | None:
    """A rung without passes is not tried; one whose passes all failed has missed."""
    pips = cell.pips if cell else []
    kept = [pip for pip in pips if pip.state in ("kept", "flagged")]
    if not kept:
        return rung_of([], failed=any(pip.state == "failed" for pip in pips))
    word = rung_of(codes)
    return "cannot tell" if word == "average only" and waits else word


def _found(
    column: Column,
    descent: Descent,
    names: Sequence[str],
    words: Sequence[RungWord | None],
    cells: Sequence[ProgressCell | None],
    judged: bool,
) -> Note:
    if column.configuration.blocked:
        return note("ladder_blocked", why=column.configuration.blocked)
    if descent.best is not None:
        above, against = ([names[at] for at in own] for own in (descent.above, descent.against))
        return note("ladder_found", best=names[descent.best], above=above, against=against)
    if descent.next is None:
        return note("ladder_none", lowest=names[-1]) if names else note("ladder_no_target")
    if not judged and all(cell is not None and cell.pips for cell in cells[:1]):
        return note("ladder_no_target")
    cell = cells[descent.next]
    tried = [names[at] for at in range(descent.next) if words[at] in ("missed", "average only")]
    waiting = cell is not None and bool(cell.owed or cell.running)
    return note("ladder_open", next_rung=names[descent.next], tried=tried, waiting=waiting)
