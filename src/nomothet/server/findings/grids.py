"""Grids: factors of two levels each in every combination, test by test: effects and interactions (method 7)."""

import math
from collections.abc import Mapping
from itertools import product

from nomothet.core.grid import MOST_FACTORS, GridResult, grid
from nomothet.core.notes import note
from nomothet.server.findings.finding import CellRef, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.rows import band_of, compares, counts, turn_of
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.server.reviews.shown import metric_of
from nomothet.words import say
from nomothet.words.findings import change_of, changes_of

LEAST_FACTORS = 2
# So many effects are told in the sentence; the others stand in the table.
MOST_TOLD = 3
Corner = tuple[int, ...]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test that every corner of the grid has been measured in."""
    corners = _corners(found)
    if not corners:
        return []
    made = []
    for at, row in enumerate(found.leading()):
        columns = list(corners.values())
        if compares(row) and all(counts(row, column) for column in columns):
            made.append(_of(kind, found, row, corners, at))
    return made


def _corners(found: Gathered) -> dict[Corner, Column]:
    """Each combination of levels with its column; a factor's first level is the baseline's. Empty where one lacks."""
    base, factors = found.baseline, found.factors
    if base is None or not LEAST_FACTORS <= len(factors) <= MOST_FACTORS:
        return {}
    if any(len(factor.levels) != 2 for factor in factors):
        return {}
    first = found.factor_levels[base.pk]
    corners: dict[Corner, Column] = {}
    for column in [base, *found.others]:
        own = found.factor_levels[column.pk]
        corner = tuple(int(own[factor.key] != first[factor.key]) for factor in factors)
        corners.setdefault(corner, column)
    whole = all(corner in corners for corner in product((0, 1), repeat=len(factors)))
    return corners if whole else {}


def _of(kind: Kind, found: Gathered, row: RowShape, corners: Mapping[Corner, Column], at: int) -> Ranked:
    metric = metric_of(found.tests[row.test], row.metric, found.review.low_definition)
    values = found.evidence.values[row.test, metric.key]
    result: GridResult = grid(
        [factor.name for factor in found.factors],
        {corner: values[column.pk].numbers for corner, column in corners.items()},
        turn_of(row),
        found.review.margin,
    )
    effects = {" × ".join(of): one for of, one in result.effects.items()}
    largest = sorted(effects.items(), key=lambda pair: -abs(math.log(pair[1].ratio)))[:MOST_TOLD]
    sentence = say(
        note(
            "finding_grid",
            test=found.names[row.test],
            metric=row.label.split(",")[0],
            effects=[(name, one.ratio, one.verdict) for name, one in largest],
        )
    )
    columns = [column.pk for column in corners.values()]
    shape = FindingShape(
        key=f"{kind.key}-{row.test}",
        kind=kind.key,
        kind_words=kind.words,
        sentence=sentence,
        sure=found.sure(columns, undecided=any(one.verdict in UNDECIDED for _, one in largest)),
        columns=columns,
        tests=[row.test],
        cells=[CellRef(row.test, pk, row.metric) for pk in columns],
        caveats=found.caveats(columns),
        left_out=[],
        section=kind.section,
        margin_pct=100 * found.review.margin,
        bands=[band_of(name, one) for name, one in effects.items()],
        heads=["effect", "change", "interval", "verdict"],
        lines=[
            [name, change_of(one.ratio), changes_of(one.low, one.high), one.verdict] for name, one in effects.items()
        ],
    )
    return Ranked(shape, 1, abs(math.log(largest[0][1].ratio)), (at,))


KIND = Kind("grid", "grid of factors", "7", make)
