"""Sweeps: an ordered factor, test by test: what is enough, and where it tapers off (method 5)."""

import math
from collections.abc import Sequence
from dataclasses import replace

from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.core.pairwise import Pairwise
from nomothet.core.sweep import Level, LevelResult, SweepResult, sweep
from nomothet.server.findings.finding import CellRef, FindingBand, FindingShape, Kind, Ranked
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import band_of, compares, counts, turn_of
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.server.reviews.shown import metric_of
from nomothet.words import say
from nomothet.words.findings import change_of, changes_of
from nomothet.words.numbers import figure

# Two levels are a comparison, and no sweep.
LEAST_LEVELS = 3


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test, where one factor alone is varied over three levels or more."""
    levels = found.levels()
    made = []
    for at, row in enumerate(found.leading()):
        if not compares(row):
            continue
        columns = [column for column in found.columns.values() if counts(row, column) and column.pk in levels]
        if len(columns) < LEAST_LEVELS:
            continue
        ranked = _of(kind, found, row, columns, levels, at)
        made += [ranked] if ranked else []
    return made


def _of(
    kind: Kind,
    found: Gathered,
    row: RowShape,
    columns: Sequence[Column],
    levels: dict[int, float | str],
    at: int,
) -> Ranked | None:
    metric = metric_of(found.tests[row.test], row.metric, found.review.low_definition)
    values = found.evidence.values[row.test, metric.key]
    try:
        result = sweep(
            [Level(levels[one.pk], values[one.pk].numbers) for one in columns],
            turn_of(row),
            found.review.margin,
        )
    except BadSample:
        # Two configurations of one level, or levels that are numbers and words: no sweep.
        return None
    by_level = {levels[one.pk]: one for one in columns}
    best, enough = by_level[result.best], by_level[result.enough]
    order = [by_level[one.level] for one in result.levels]
    below = order[order.index(enough) - 1] if order.index(enough) else None
    sentence = say(
        note(
            "finding_sweep",
            test=found.names[row.test],
            metric=row.label.split(",")[0],
            best=best.label,
            enough=enough.label,
            below=below.label if below else "",
        )
    )
    known = any(one.low is not None for one in result.levels)
    shape = FindingShape(
        key=f"{kind.key}-{row.test}",
        kind=kind.key,
        kind_words=kind.words,
        sentence=sentence,
        sure=found.sure([one.pk for one in order], undecided=not known),
        columns=[one.pk for one in order],
        tests=[row.test],
        cells=[CellRef(row.test, one.pk, row.metric) for one in order],
        caveats=found.caveats([one.pk for one in order]),
        left_out=[],
        section=kind.section,
        margin_pct=100 * found.review.margin,
        bands=[_band(by_level[one.level], one) for one in result.levels],
        heads=["level", row.label.split(",")[0], "over the level before", "for each unit", "against the best"],
        lines=[_line(by_level[one.level], one, row.unit) for one in result.levels],
    )
    return Ranked(shape, 1, _reach(result), (at,))


def _reach(result: SweepResult) -> float:
    return abs(math.log(result.levels[-1].centre / result.levels[0].centre))


def _band(column: Column, one: LevelResult) -> FindingBand:
    """A level against the best; the best itself stands at the line."""
    if one.against_best is not None:
        return band_of(column.label, one.against_best, column.pk)
    return replace(band_of(column.label, Pairwise(1.0, None, None, "level"), column.pk), told="the best")


def _line(column: Column, one: LevelResult, unit: str) -> list[str]:
    gain, compared = one.gain, one.against_best
    told = ""
    if gain is not None:
        interval = changes_of(gain.comparison.low, gain.comparison.high)
        told = f"{change_of(gain.comparison.ratio)} ({interval}), {gain.comparison.verdict}"
    per_unit = "" if gain is None or gain.per_unit_pct is None else f"{gain.per_unit_pct:+.2g} %".replace("-", "−")
    best = "the best" if compared is None else f"{change_of(compared.ratio)}, {compared.verdict}"
    return [column.label, f"{figure(one.centre)} {unit}".strip(), told, per_unit, best]


KIND = Kind("sweep", "sweep", "5", make)
