"""Over all tests: each configuration against the baseline, with the tests beside it (method 4)."""

import math
from collections.abc import Mapping, Sequence
from statistics import fmean

from nomothet.core.notes import note
from nomothet.core.overall import Overall, overall
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.over_tests import cells_over_tests, left_out_words
from nomothet.server.findings.rows import band_of, told_with
from nomothet.server.findings.shapes import FindingBand, FindingDot
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import change_of
from nomothet.words.numbers import figure

# The roles that are looked at over all tests: what leads in each test, and the lows.
ROLES = {"averages": "leading figures", "lows": "1 % lows"}


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each role that two tests have, on two configurations."""
    made = []
    for role in [found.choice.role] if found.choice.role else ROLES:
        rows = [row for row in rows_of(found, role) if row.scale == "ratio" and row.direction != "neither"]
        if len(rows) >= 2 and found.others and found.baseline is not None:
            made += _of_role(kind, found, role, rows)
    return made


def rows_of(found: Gathered, role: str) -> list[RowShape]:
    """The rows of a role: what leads in each test, or the lows."""
    return found.lows() if role == "lows" else found.leading()


def role_words(role: str, rows: Sequence[RowShape]) -> str:
    """What a role is called, given the rows that stand for it."""
    if role == "averages" and all(row.metric == "average_fps" for row in rows):
        return "averages"
    return ROLES[role]


def _of_role(kind: Kind, found: Gathered, role: str, rows: Sequence[RowShape]) -> list[Ranked]:
    base = found.baseline
    assert base is not None
    compared = [base, *(one for one in found.others if any(str(one.pk) in row.cells for row in rows))]
    if len(compared) < 2:
        return []
    result = overall(cells_over_tests(found, rows, compared), str(base.pk), found.review.margin)
    taking_part = [row for row in rows if str(row.test) not in result.left_out]
    ones = {column.pk: one for column in compared[1:] if (one := result.configurations[str(column.pk)]) is not None}
    if not ones or len(taking_part) < 2:
        return []
    bands = {pk: _band(found, found.columns[pk], one) for pk, one in ones.items()}
    left_out = left_out_words(found, result.left_out)
    lines = _lines(found, bands, taking_part, [base, *(found.columns[pk] for pk in bands)])
    return [
        drawn_up(
            kind,
            found,
            Draft(
                key=f"{role}-{pk}",
                sentence=note(
                    "finding_over_all",
                    own=found.columns[pk].label,
                    baseline=base.label,
                    tests=one.tests,
                    role=role_words(role, taking_part),
                    ratio=one.compared.ratio,
                    low=one.compared.low,
                    high=one.compared.high,
                    verdict=one.compared.verdict,
                ),
                use=Use.WHOLE if role == "averages" else Use.FACTOR,
                columns=[base.pk, pk],
                about=taking_part,
                size=abs(math.log(one.compared.ratio)) / math.log1p(found.review.margin),
                order=at,
                undecided=one.compared.verdict in UNDECIDED,
                told=change_of(one.compared.ratio),
                verdict=one.compared.verdict,
                left_out=left_out,
                bands=list(bands.values()),
                heads=["test", *(found.columns[other].label for other in bands)],
                lines=lines,
            ),
        )
        for at, (pk, one) in enumerate(ones.items())
    ]


def _band(found: Gathered, column: Column, one: Overall) -> FindingBand:
    dots = [
        FindingDot(int(test), found.names[int(test)], 100 * math.expm1(d), change_of(math.exp(d)))
        for test, d in one.each.items()
    ]
    return band_of(column.label, one.compared, column.pk, dots)


def _lines(
    found: Gathered, bands: Mapping[int, FindingBand], rows: Sequence[RowShape], columns: Sequence[Column]
) -> list[list[str]]:
    """Each test's own change, that over all tests, best and worst test, and where units agree the plain mean."""
    by_test = [[found.names[row.test], *(_dot(band, row.test) for band in bands.values())] for row in rows]
    whole = [told_with(band.told, band.interval) + f", {band.verdict}" for band in bands.values()]
    best = [max(band.dots, key=lambda dot: dot.better).name for band in bands.values()]
    worst = [min(band.dots, key=lambda dot: dot.better).name for band in bands.values()]
    lines = [*by_test, ["over all tests", *whole], ["best test", *best], ["worst test", *worst]]
    if len({(row.unit, row.direction) for row in rows}) == 1:
        means = [fmean(row.cells[str(column.pk)].centre for row in rows) for column in columns]
        base, *own = (f"{figure(mean)} {rows[0].unit}".strip() for mean in means)
        lines.append([f"mean of the values, no verdict ({columns[0].label}: {base})", *own])
    return lines


def _dot(band: FindingBand, test: int) -> str:
    return next((dot.told for dot in band.dots if dot.test == test), "")


KIND = Kind("overall", "over all tests", "4", make, ("role", "without", "baseline"))
