"""Making a finding of what a kind has found."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from nomothet.core.notes import Note
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered, Sure
from nomothet.server.findings.shapes import (
    ActShape,
    CellRef,
    CurvesShape,
    ExpectedShape,
    ExtentsShape,
    FindingBand,
    FindingShape,
)
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.words import say


@dataclass(frozen=True)
class Draft:
    """What a kind says of a finding; the rest follows from the review.

    Attributes
    ----------
    about : sequence of RowShape
        The rows that it rests on, with `columns` making its cells where `cells` does not name them.
    undecided : bool
        Whether nothing is decided by it.
    sure : str or None
        How sure it is, where that does not follow from its columns.
    """

    key: str
    sentence: Note
    use: Use
    columns: Sequence[int]
    about: Sequence[RowShape] = ()
    size: float = 0.0
    order: int = 0
    undecided: bool = False
    sure: Sure | None = None
    told: str = ""
    verdict: str = ""
    cells: Sequence[CellRef] | None = None
    caveats: Sequence[str] = ()
    compares: bool = True
    left_out: Sequence[str] = ()
    margin: bool = True
    bands: Sequence[FindingBand] = ()
    curves: CurvesShape | None = None
    extents: ExtentsShape | None = None
    heads: Sequence[str] = ()
    lines: Sequence[Sequence[str]] = ()
    acts: Sequence[ActShape] = ()
    expected: Sequence[ExpectedShape] = ()
    enough: Sequence[int] = ()
    tests: Sequence[int] = field(default_factory=tuple)


def drawn_up(kind: Kind, found: Gathered, draft: Draft) -> Ranked:
    """The finding with its place among the others."""
    columns = list(dict.fromkeys(draft.columns))
    cells = draft.cells
    if cells is None:
        cells = [
            CellRef(row.test, column, row.metric)
            for row in draft.about
            for column in columns
            if str(column) in row.cells
        ]
    tests = list(dict.fromkeys(draft.tests or [cell.test for cell in cells]))
    caveats = found.caveats(columns, draft.about) if draft.compares else []
    heads, lines = _told(draft.heads, draft.lines)
    shape = FindingShape(
        key=f"{kind.key}-{draft.key}" if draft.key else kind.key,
        kind=kind.key,
        kind_words=kind.words,
        sentence=say(draft.sentence),
        told=draft.told,
        verdict=draft.verdict,
        sure=draft.sure or found.sure(columns if draft.compares else [], undecided=draft.undecided),
        columns=columns,
        tests=tests,
        cells=list(cells),
        caveats=list(dict.fromkeys([*draft.caveats, *caveats])),
        left_out=list(draft.left_out),
        section=kind.section,
        margin_pct=100 * found.review.margin if draft.margin else None,
        bands=list(draft.bands),
        curves=draft.curves,
        extents=draft.extents,
        heads=heads,
        lines=lines,
        acts=list(draft.acts),
        expected=list(draft.expected),
        enough=list(draft.enough),
        offers=list(kind.offers),
        drawn=None,
        drawn_by="",
        pin=None,
    )
    return Ranked(shape, draft.use, draft.size, draft.order)


def _told(heads: Sequence[str], lines: Sequence[Sequence[str]]) -> tuple[list[str], list[list[str]]]:
    """A table without the columns in which nothing is said."""
    kept = [place for place in range(len(heads)) if not place or any(line[place] for line in lines)]
    return [heads[place] for place in kept], [[line[place] for place in kept] for line in lines]
