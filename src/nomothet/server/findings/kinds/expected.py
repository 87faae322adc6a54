"""What the brief expects, held against what was found (method 27)."""

from nomothet.core.errors import BadSample
from nomothet.core.expectation import Held, held_against
from nomothet.core.notes import Note, note
from nomothet.core.overall import overall
from nomothet.core.pairwise import Pairwise, against, noise_of, turned_cells
from nomothet.core.passes import ALPHA
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.kinds.over_all import role_words, rows_of
from nomothet.server.findings.over_tests import cells_over_tests, left_out_words, why_not
from nomothet.server.findings.rows import band_of, compares, turn_of
from nomothet.server.findings.shapes import FindingBand
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.expectations import Expectation
from nomothet.words.findings import change_of


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each expectation that is in a form."""
    return [_of(kind, found, one, at) for at, one in enumerate(found.expectations)]


def _of(kind: Kind, found: Gathered, one: Expectation, at: int) -> Ranked:
    own, of = found.columns[one.column], found.columns[one.of]
    rows = [row for row in rows_of(found, one.role) if compares(row) and one.test in (None, row.test)]
    compared, left_out, taken = _compared(found, one, rows)
    most = None if one.by_at_most_pct is None else one.by_at_most_pct / 100
    low, high = (None, None) if compared is None else (compared.low, compared.high)
    held = held_against(one.word, low, high, found.review.margin, most)
    found.judged.append((one, held, kind.key))
    bands: list[FindingBand] = [] if compared is None else [band_of(own.label, compared, own.pk)]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{at + 1}",
            sentence=sentence_of(found, one, taken, compared, held),
            use=Use.AGAINST_EXPECTATION if held == "not held" else Use.WHOLE,
            columns=[of.pk, own.pk],
            about=taken,
            size=0.0,
            order=at,
            undecided=held == "cannot tell",
            told="" if compared is None else change_of(compared.ratio),
            verdict=held,
            left_out=left_out,
            bands=bands,
            heads=["expected", "found", "interval", "it is"],
            lines=[[words_of(found, one), *_told(bands), held]],
        ),
    )


def _told(bands: list[FindingBand]) -> list[str]:
    return [f"{bands[0].told}, {bands[0].verdict}", bands[0].interval] if bands else ["not measured", ""]


def sentence_of(found: Gathered, one: Expectation, rows: list[RowShape], compared: Pairwise | None, held: Held) -> Note:
    """An expectation with what came of it."""
    return note(
        "finding_expected",
        own=found.columns[one.column].label,
        word=one.word,
        of=found.columns[one.of].label,
        most_pct=one.by_at_most_pct,
        where=found.names[one.test] if one.test is not None else "",
        role=role_words(one.role, rows) if rows else one.role,
        ratio=None if compared is None else compared.ratio,
        low=None if compared is None else compared.low,
        high=None if compared is None else compared.high,
        held=held,
        tests=len({row.test for row in rows}),
    )


def words_of(found: Gathered, one: Expectation) -> str:
    """An expectation as it is told."""
    by = "" if one.by_at_most_pct is None else f", by {one.by_at_most_pct:g} % at most"
    with_of = {"ahead": "ahead of", "level": "level with", "behind": "behind"}[one.word]
    return f"{found.columns[one.column].label} {with_of} {found.columns[one.of].label}{by}"


def _compared(
    found: Gathered, one: Expectation, rows: list[RowShape]
) -> tuple[Pairwise | None, list[str], list[RowShape]]:
    """The comparison that an expectation speaks of, what was left out, and the rows that took part."""
    own, of = found.columns[one.column], found.columns[one.of]
    if one.test is None:
        if not rows:
            return None, [], []
        tests = cells_over_tests(found, rows, [of, own])
        try:
            result = overall(tests, str(of.pk), found.review.margin)
        except BadSample:
            return None, [], []
        answer = result.configurations[str(own.pk)]
        taken = [row for row in rows if str(row.test) not in result.left_out]
        return (answer.compared if answer else None), left_out_words(found, result.left_out), taken
    if not rows or why_not(found, rows[0], [of, own]):
        return None, [], rows
    row = rows[0]
    cells = turned_cells(
        {str(pk): numbers for pk in found.columns if (numbers := found.numbers(row, pk))}, turn_of(row)
    )
    compared = against(cells[str(own.pk)], cells[str(of.pk)], noise_of(cells), ALPHA, found.review.margin)
    return compared, [], [row]


KIND = Kind("expected", "expected", "27", make)
