"""Over all tests: each configuration against the baseline, with the tests beside it (method 4)."""

import math
from collections.abc import Mapping, Sequence

from nomothet.core.notes import note
from nomothet.core.overall import Overall, TestCells, overall
from nomothet.formats.words import OUTCOMES
from nomothet.server.findings.finding import CellRef, FindingBand, FindingDot, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.rows import band_of, turn_of
from nomothet.server.matrix.row_shapes import CellShape, RowShape
from nomothet.server.reviews.models import Column
from nomothet.server.reviews.shown import metric_of
from nomothet.words import say
from nomothet.words.findings import LEFT_OUT, change_of

# The roles that are looked at over all tests: what leads in each test, and the lows.
ROLES = {"averages": "leading figures", "lows": "1 % lows"}


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each role that two tests have, on two configurations."""
    made = []
    for role in ROLES:
        rows = [row for row in _rows(found, role) if row.scale == "ratio" and row.direction != "neither"]
        if len(rows) < 2 or not found.others or found.baseline is None:
            continue
        made += _of_role(kind, found, role, rows)
    return made


def _rows(found: Gathered, role: str) -> list[RowShape]:
    if role == "averages":
        return found.leading()
    return [row for row in found.shown.rows if row.metric == "low_1pct" and not row.kind]


def _of_role(kind: Kind, found: Gathered, role: str, rows: Sequence[RowShape]) -> list[Ranked]:
    base = found.baseline
    assert base is not None
    compared = [base, *(one for one in found.others if any(str(one.pk) in row.cells for row in rows))]
    if len(compared) < 2:
        return []
    tests = {str(row.test): _cells(found, row, compared) for row in rows}
    result = overall(tests, str(base.pk), found.review.margin)
    taking_part = [row for row in rows if str(row.test) not in result.left_out]
    bands: dict[int, FindingBand] = {}
    sizes = {}
    for column in compared[1:]:
        one = result.configurations[str(column.pk)]
        if one is not None:
            bands[column.pk] = _band(found, column, one)
            sizes[column.pk] = abs(math.log(one.compared.ratio)) / math.log1p(found.review.margin)
    if not bands or len(taking_part) < 2:
        return []
    left_out = [f"{found.names[int(test)]}: {LEFT_OUT.get(why, why)}" for test, why in result.left_out.items()]
    ranked = []
    for at, (pk, band) in enumerate(bands.items()):
        column = found.columns[pk]
        overall_one = result.configurations[str(pk)]
        assert overall_one is not None
        sentence = say(
            note(
                "finding_over_all",
                own=column.label,
                baseline=base.label,
                tests=overall_one.tests,
                role=_role_words(role, taking_part),
                ratio=overall_one.compared.ratio,
                low=overall_one.compared.low,
                high=overall_one.compared.high,
                verdict=overall_one.compared.verdict,
            )
        )
        shape = FindingShape(
            key=f"{kind.key}-{role}-{pk}",
            kind=kind.key,
            kind_words=kind.words,
            sentence=sentence,
            sure=found.sure((base.pk, pk), undecided=band.verdict in UNDECIDED),
            columns=[base.pk, pk],
            tests=[row.test for row in taking_part],
            cells=[CellRef(row.test, one, row.metric) for row in taking_part for one in (base.pk, pk)],
            caveats=found.caveats((base.pk, pk)),
            left_out=left_out,
            section="4",
            margin_pct=100 * found.review.margin,
            bands=list(bands.values()),
            heads=["test", *(one.label for one in compared[1:] if one.pk in bands)],
            lines=_lines(found, bands, taking_part),
        )
        ranked.append(Ranked(shape, 0 if role == "averages" else 1, sizes[pk], (at,)))
    return ranked


def _role_words(role: str, rows: Sequence[RowShape]) -> str:
    if role == "averages" and all(row.metric == "average_fps" for row in rows):
        return "averages"
    return ROLES[role]


def _cells(found: Gathered, row: RowShape, compared: Sequence[Column]) -> TestCells:
    """The values of a row, and why it takes no part."""
    metric = metric_of(found.tests[row.test], row.metric, found.review.low_definition)
    values = found.evidence.values.get((row.test, metric.key), {})
    cells = {str(one.pk): values[one.pk].numbers for one in compared if one.pk in values and values[one.pk].numbers}
    return TestCells(
        {str(one.pk): cells.get(str(one.pk), ()) for one in compared},
        turn_of(row),
        left_out=_why(found, row, compared) or None,
    )


def _why(found: Gathered, row: RowShape, compared: Sequence[Column]) -> str:
    """The first reason that a test is left out for all: missing, untrusted, held rate, masked, thin tail."""
    cells: Mapping[str, CellShape] = row.cells
    if any(str(one.pk) not in cells for one in compared):
        failed = _failed(found, row.test, compared)
        return failed or "missing"
    if row.untrusted:
        return "untrusted"
    codes = {cells[str(one.pk)].why_not_code for one in compared}
    if "held_at" in codes:
        return "held rate"
    if "masked" in codes:
        return "masked"
    if any(cells[str(one.pk)].thin for one in compared):
        return "thin tail"
    return ""


def _failed(found: Gathered, test: int, compared: Sequence[Column]) -> str:
    """How a cell without figures ended, where it was tried."""
    lines = {line.test: line.cells for line in found.shown.progress}
    for column in compared:
        cell = lines.get(test, {}).get(str(column.pk))
        failed = [pip.words for pip in cell.pips if pip.state == "failed"] if cell else []
        if failed:
            known = next((words for words in OUTCOMES.values() if failed[0].startswith(words)), failed[0])
            return f"{known} on {column.label}"
    return ""


def _band(found: Gathered, column: Column, one: Overall) -> FindingBand:
    dots = [
        FindingDot(int(test), found.names[int(test)], 100 * math.expm1(d), change_of(math.exp(d)))
        for test, d in one.each.items()
    ]
    return band_of(column.label, one.compared, column.pk, dots)


def _lines(found: Gathered, bands: Mapping[int, FindingBand], rows: Sequence[RowShape]) -> list[list[str]]:
    """Each test's own change, then that over all tests."""
    by_test = [[found.names[row.test], *(_dot(band, row.test) for band in bands.values())] for row in rows]
    whole = [
        f"{band.told} ({band.interval}), {band.verdict}" if band.interval else band.told for band in bands.values()
    ]
    return [*by_test, ["over all tests", *whole]]


def _dot(band: FindingBand, test: int) -> str:
    return next((dot.told for dot in band.dots if dot.test == test), "")


KIND = Kind("overall", "over all tests", "4", make)
