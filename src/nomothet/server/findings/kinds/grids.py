"""Grids: factors of two levels each in every combination, test by test: effects and interactions (method 7)."""

import math
from collections.abc import Mapping, Sequence
from itertools import product

from nomothet.core.grid import MOST_FACTORS, GridResult, grid
from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.rows import band_of, compares, counts, metric_of_row, turn_of
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.levels import FactorShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import change_of, changes_of
from nomothet.words.numbers import figure

LEAST_FACTORS = 2
# So many effects are told in the sentence; the others stand in the table.
MOST_TOLD = 3
Corner = tuple[int, ...]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test that every corner of the grid has been measured in."""
    chosen = found.choice.factors
    factors = [factor for factor in found.factors if not chosen or factor.key in chosen]
    corners = corners_of(found, factors)
    if corners is None or None in corners.values():
        return []
    whole = {corner: column for corner, column in corners.items() if column is not None}
    made = []
    for at, row in enumerate(found.leading()):
        if compares(row) and all(counts(row, column) for column in whole.values()):
            made.append(_of(kind, found, row, factors, whole, at))
    return made


def corners_of(found: Gathered, factors: Sequence[FactorShape]) -> dict[Corner, Column | None] | None:
    """Each combination of levels with its column, None where there is none; a factor's first level is the baseline's.

    None where the factors make no grid. Factors that are not asked for stay at the baseline's level.
    """
    base = found.baseline
    if base is None or not LEAST_FACTORS <= len(factors) <= MOST_FACTORS:
        return None
    first = found.factor_levels[base.pk]
    asked = {factor.key for factor in factors}
    columns = [
        column
        for column in [base, *found.others]
        if all(found.factor_levels[column.pk][key] == level for key, level in first.items() if key not in asked)
    ]
    levels = {key: {found.factor_levels[column.pk][key] for column in columns} for key in asked}
    if any(len(own) != 2 for own in levels.values()):
        return None
    corners: dict[Corner, Column | None] = dict.fromkeys(product((0, 1), repeat=len(factors)))
    for column in columns:
        own = found.factor_levels[column.pk]
        corner = tuple(int(own[factor.key] != first[factor.key]) for factor in factors)
        if corners[corner] is None and not _differs_otherwise(found, base, column, factors):
            corners[corner] = column
    return corners


def _differs_otherwise(found: Gathered, base: Column, column: Column, factors: Sequence[FactorShape]) -> bool:
    """Whether a column is a corner and more: then another may stand for the corner."""
    varied = {aspect for factor in factors for aspect in factor.aspects}
    a, b = found.aspects[base.pk], found.aspects[column.pk]
    kept = [factor.key for factor in found.factors if factor.key not in {one.key for one in factors}]
    if any(found.factor_levels[base.pk][key] != found.factor_levels[column.pk][key] for key in kept):
        return True
    parts = [key for key in {*a, *b} if a.get(key) != b.get(key) and key not in varied]
    settable = [key for key in parts if "." not in key and key != "system"]
    return bool(settable)


def _of(
    kind: Kind,
    found: Gathered,
    row: RowShape,
    factors: Sequence[FactorShape],
    corners: Mapping[Corner, Column],
    at: int,
) -> Ranked:
    result: GridResult = grid(
        [factor.name for factor in factors],
        {corner: found.numbers(row, column.pk) for corner, column in corners.items()},
        turn_of(row),
        found.review.margin,
    )
    effects = {" × ".join(of): one for of, one in result.effects.items()}
    largest = sorted(effects.items(), key=lambda pair: -abs(math.log(pair[1].ratio)))[:MOST_TOLD]
    together = {of: one for of, one in result.effects.items() if len(of) == 2 and one.verdict in ("ahead", "behind")}
    strongest = max(together, key=lambda of: abs(math.log(together[of].ratio)), default=None)
    names = {factor.name: factor for factor in factors}
    second = {
        name: next(
            (found.factor_levels[column.pk][factor.key] for corner, column in corners.items()
             if corner[list(names).index(name)] == 1),
            "",
        )
        for name, factor in names.items()
    }  # fmt: skip
    columns = [column.pk for column in corners.values()]
    means = [
        [
            column.label,
            *(found.factor_levels[column.pk][factor.key] for factor in factors),
            f"{figure(row.cells[str(column.pk)].centre)} {row.unit}".strip(),
        ]
        for column in corners.values()
    ]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{row.test}",
            sentence=note(
                "finding_grid",
                test=found.names[row.test],
                metric=metric_of_row(row),
                effects=[(name, one.ratio, one.verdict) for name, one in largest],
                together=None
                if strongest is None
                else (
                    strongest[0],
                    second[strongest[0]],
                    strongest[1],
                    second[strongest[1]],
                    together[strongest].ratio,
                ),
            ),
            use=Use.FACTOR,
            columns=columns,
            about=[row],
            size=abs(math.log(largest[0][1].ratio)) / math.log1p(found.review.margin),
            order=at,
            undecided=all(one.verdict in UNDECIDED for one in effects.values()),
            told=change_of(largest[0][1].ratio),
            verdict=largest[0][1].verdict,
            bands=[band_of(name, one) for name, one in effects.items()],
            heads=["effect, or cell", "change, or levels", "interval", "verdict, or mean"],
            lines=[
                *(
                    [name, change_of(one.ratio), changes_of(one.low, one.high), one.verdict]
                    for name, one in effects.items()
                ),
                *([one[0], ", ".join(one[1:-1]), "", one[-1]] for one in means),
            ],
        ),
    )


KIND = Kind("grid", "grid of factors", "7", make, ("role", "without", "factors", "baseline"))
