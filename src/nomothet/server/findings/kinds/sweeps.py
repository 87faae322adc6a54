"""Sweeps: an ordered factor, test by test: what is enough, and where it tapers off (method 5)."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.core.settings import is_known, setting_of
from nomothet.core.sweep import Level, LevelResult, SweepResult, sweep
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import compares, counts, metric_of_row, turn_of
from nomothet.server.findings.shapes import CurvePoint, CurvesShape, FindingAxis, FindingCurve, FindingRule
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import change_of, changes_of, per_unit_words
from nomothet.words.numbers import figure

LEAST_LEVELS = 2
# So many other tests are drawn beside the one that is told.
MOST_BESIDE = 7


@dataclass(frozen=True)
class _Swept:
    """A test's sweep with the column of each level."""

    row: RowShape
    result: SweepResult
    columns: Mapping[float | str, Column]

    @property
    def order(self) -> list[Column]:
        return [self.columns[one.level] for one in self.result.levels]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test, where one factor with an order is varied alone."""
    levels = found.levels()
    swept = [one for row in found.leading() if (one := _swept(found, row, levels)) is not None]
    return [_of(kind, found, one, swept, at) for at, one in enumerate(swept)]


def _swept(found: Gathered, row: RowShape, levels: Mapping[int, float | str]) -> _Swept | None:
    if not compares(row):
        return None
    columns = [column for column in found.columns.values() if counts(row, column) and column.pk in levels]
    columns = _ordered(found, columns, levels)
    if len(columns) < LEAST_LEVELS:
        return None
    given = [Level(levels[one.pk], found.numbers(row, one.pk), found.prices[one.pk].total) for one in columns]
    try:
        result = sweep(given, turn_of(row), found.review.margin)
    except BadSample:
        # Two configurations of one level, or levels that are numbers and words: no sweep.
        return None
    return _Swept(row, result, {levels[one.pk]: one for one in columns})


def _ordered(found: Gathered, columns: Sequence[Column], levels: Mapping[int, float | str]) -> list[Column]:
    """The columns, where their levels have an order: numbers, or words in the order that the brief gives them."""
    if all(isinstance(levels[column.pk], float) for column in columns):
        return list(columns)
    factor = found.review.factors[0]
    if factor["aspects"] or len(columns) <= LEAST_LEVELS:
        return []
    order = {level: at for at, level in enumerate(factor["levels"])}
    return sorted(columns, key=lambda column: order.get(str(levels[column.pk]), len(order)))


def _of(kind: Kind, found: Gathered, one: _Swept, all_of_them: Sequence[_Swept], at: int) -> Ranked:
    row, result, order = one.row, one.result, one.order
    best, enough = one.columns[result.best], one.columns[result.enough]
    below = order[order.index(enough) - 1] if order.index(enough) else None
    known = any(level.low is not None for level in result.levels)
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{row.test}",
            sentence=note(
                "finding_sweep",
                test=found.names[row.test],
                metric=metric_of_row(row),
                best=best.label,
                enough=enough.label,
                below=below.label if below else "",
            ),
            use=Use.FACTOR,
            columns=[column.pk for column in order],
            about=[row],
            size=_reach(result) / math.log1p(found.review.margin),
            order=at,
            undecided=not known,
            told=enough.label,
            verdict="enough",
            enough=[enough.pk],
            curves=_curves(found, one, all_of_them),
            heads=[
                "level", metric_of_row(row), "over the level before", "for each unit", "for each 100 €",
                "against the best",
            ],
            lines=[_line(one.columns[level.level], level, row.unit) for level in result.levels],
            left_out=_aids(one),
        ),
    )  # fmt: skip


def _reach(result: SweepResult) -> float:
    return abs(math.log(result.levels[-1].centre / result.levels[0].centre))


def _aids(one: _Swept) -> list[str]:
    """Where it tapers off, and the knee, which is an aid to reading and no verdict."""
    said = []
    if one.result.tapering_at is not None:
        said.append(f"tapers off at {one.columns[one.result.tapering_at].label}")
    if one.result.knee is not None:
        said.append(f"knee at {one.columns[one.result.knee.level].label}, an aid to reading and no verdict")
    return said


def _curves(found: Gathered, one: _Swept, all_of_them: Sequence[_Swept]) -> CurvesShape:
    """The test with its intervals, the others faint beside it, each in per cent of its own best level."""
    numeric = all(isinstance(level.level, float) for level in one.result.levels)
    factor = found.factors[0]
    unit = setting_of(factor.aspects[0]).spec.unit if numeric and is_known(factor.aspects[0]) else ""
    names = [] if numeric else [column.label for column in one.order]
    beside = [other for other in all_of_them if other is not one and other.order == one.order][:MOST_BESIDE]

    def x(level: LevelResult, at: int) -> float:
        return float(level.level) if numeric else float(at)

    def points(swept: _Swept) -> list[CurvePoint]:
        best = next(level.centre for level in swept.result.levels if level.level == swept.result.best)
        lower = swept.row.direction == "lower"

        def share(value: float | None) -> float | None:
            return None if value is None else 100 * (best / value if lower else value / best)

        made = []
        for at, level in enumerate(swept.result.levels):
            ends = (share(level.low), share(level.high))
            low, high = (ends[1], ends[0]) if lower else ends
            column = swept.columns[level.level]
            value = share(level.centre) or 0.0
            told = (
                f"{column.label}: {figure(level.centre)} {swept.row.unit}".strip() + f", {figure(value)} % of the best"
            )  # fmt: skip
            made.append(CurvePoint(x(level, at), value, low, high, told, column.pk))
        return made

    at = next(place for place, level in enumerate(one.result.levels) if level.level == one.result.enough)
    margin = 100 * found.review.margin
    return CurvesShape(
        x=FindingAxis(factor.name, unit, names=names),
        y=FindingAxis("of the best level", "%"),
        curves=[
            *(FindingCurve(found.names[other.row.test], 0, points(other), faint=True) for other in beside),
            FindingCurve(found.names[one.row.test], 0, points(one)),
        ],
        rules=[FindingRule("x", x(one.result.levels[at], at), "enough")],
        shaded=[100 / (1 + margin / 100), 100 * (1 + margin / 100)],
        caption=(
            "More is better. 100 % is each test's own best level; shaded: the margin; bars: 95 %."
            + (" Faint: the other tests." if beside else "")
        ),
    )


def _line(column: Column, one: LevelResult, unit: str) -> list[str]:
    gain, compared = one.gain, one.against_best
    told = per_unit = per_price = ""
    if gain is not None:
        interval = changes_of(gain.comparison.low, gain.comparison.high)
        told = f"{change_of(gain.comparison.ratio)} ({interval}), {gain.comparison.verdict}"
        per_unit = per_unit_words(gain.per_unit_pct)
        per_price = per_unit_words(None if gain.per_price_pct is None else 100 * gain.per_price_pct)
    best = "the best" if compared is None else f"{change_of(compared.ratio)}, {compared.verdict}"
    return [column.label, f"{figure(one.centre)} {unit}".strip(), told, per_unit, per_price, best]


KIND = Kind("sweep", "sweep", "5", make, ("role", "without", "basis"))
