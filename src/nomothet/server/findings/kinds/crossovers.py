"""Crossovers: two configurations over the size of a problem (method 10)."""

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.crossover import CrossoverResult, crossover
from nomothet.core.notes import note
from nomothet.core.pairwise import Pairwise, against, noise_of, turned_cells
from nomothet.core.passes import ALPHA
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import band_of, compares, counts, metric_of_row, turn_of
from nomothet.server.findings.shapes import (
    CellRef,
    CurvePoint,
    CurvesShape,
    FindingAxis,
    FindingCurve,
    FindingRule,
)
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.findings import change_of, changes_of
from nomothet.words.numbers import figure

# Up to so many configurations every pair is looked at, above that the baseline with each.
MOST_COLUMNS = 8
# So many pairs of a row are told, those that cross the steepest first.
MOST_PAIRS = 4
_TIMES = ("ms", "s", "min", "h")


@dataclass(frozen=True)
class _Sizes:
    """Tests that differ in the size of what they work on alone, by rising size, in one of their metrics."""

    setting: str
    unit: str
    rows: Mapping[float, RowShape]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each pair of configurations of which another is ahead on the other side of some size."""
    made = []
    columns = found.buildable
    base = found.baseline
    if len(columns) <= MOST_COLUMNS or base is None:
        pairs = list(itertools.combinations(columns, 2))
    else:
        pairs = [(base, column) for column in found.others]
    for at, sizes in enumerate(_families(found)):
        crossing = []
        for a, b in pairs:
            measured = {size: row for size, row in sizes.rows.items() if counts_both(row, a, b)}
            if len(measured) < 2:
                continue
            result = crossover(
                {size: (found.numbers(row, a.pk), found.numbers(row, b.pk)) for size, row in measured.items()},
                turn_of(next(iter(measured.values()))),
            )
            if result.crossings:
                reach = max(result.log_ratio) - min(result.log_ratio)
                crossing.append((reach, a, b, measured, result))
        # Whoever is ahead of all at one end or the other comes before those who never lead.
        leading = _leading(sizes, columns)
        crossing.sort(key=lambda one: (-len({one[1].pk, one[2].pk} & leading), -one[0]))
        made += [_of(kind, found, sizes, *one[1:], at) for one in crossing[:MOST_PAIRS]]
    return [*made, *_phases(kind, found, columns)]


def _winner(row: RowShape, columns: Sequence[Column]) -> Column | None:
    """The configuration with the best centre of a row."""
    measured = [one for one in columns if counts(row, one)]
    sign = -1 if row.direction == "lower" else 1
    return max(measured, key=lambda one: sign * row.cells[str(one.pk)].centre, default=None)


def _leading(sizes: _Sizes, columns: Sequence[Column]) -> set[int]:
    """Who is ahead of all at the smallest and at the largest size."""
    rows = list(sizes.rows.values())
    return {winner.pk for row in (rows[0], rows[-1]) if (winner := _winner(row, columns)) is not None}


def counts_both(row: RowShape, a: Column, b: Column) -> bool:
    """Whether both have a figure that shows something."""
    return counts(row, a) and counts(row, b)


def _phases(kind: Kind, found: Gathered, columns: Sequence[Column]) -> list[Ranked]:
    """Tests in which one configuration is sooner in one phase and another in the next: first picture and finished."""
    made = []
    times: dict[int, list[RowShape]] = {}
    for row in found.rows:
        if compares(row) and row.direction == "lower" and row.unit in _TIMES and not row.kind:
            times.setdefault(row.test, []).append(row)
    for at, rows in enumerate(times.values()):
        winners = [(row, winner) for row in rows if (winner := _winner(row, columns)) is not None]
        if len({winner.pk for _, winner in winners}) < 2:
            continue
        a = winners[0][1]
        b = next(winner for _, winner in winners if winner.pk != a.pk)
        measured = [row for row in rows if counts_both(row, a, b)]
        ratios = [_ahead(found, row, a, b) for row in measured]
        if len(ratios) > 1 and min(one.ratio for one in ratios) < 1 < max(one.ratio for one in ratios):
            sure = {one.verdict for one in ratios} >= {"ahead", "behind"}
            made.append(_of_phases(kind, found, not sure, a, b, measured, ratios, at))
    return made


def _ahead(found: Gathered, row: RowShape, a: Column, b: Column) -> Pairwise:
    """b against a in a row, with the noise of all its cells."""
    every = {str(pk): numbers for pk in found.columns if (numbers := found.numbers(row, pk))}
    cells = turned_cells(every, turn_of(row))
    return against(cells[str(b.pk)], cells[str(a.pk)], noise_of(cells), ALPHA, found.review.margin)


def _of_phases(
    kind: Kind,
    found: Gathered,
    undecided: bool,
    a: Column,
    b: Column,
    rows: Sequence[RowShape],
    ratios: Sequence[Pairwise],
    at: int,
) -> Ranked:
    best, worst = (pick(zip(rows, ratios, strict=True), key=lambda one: one[1].ratio) for pick in (max, min))
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{rows[0].test}-phases-{a.pk}-{b.pk}",
            sentence=note(
                "finding_phases",
                test=found.names[rows[0].test],
                sooner=b.label,
                phase=metric_of_row(best[0]),
                told=change_of(1 / best[1].ratio),
                later=a.label,
                other=metric_of_row(worst[0]),
                other_told=change_of(worst[1].ratio),
            ),
            use=Use.FACTOR,
            columns=[a.pk, b.pk],
            about=rows,
            size=math.log(best[1].ratio / worst[1].ratio) / math.log1p(found.review.margin),
            order=at,
            undecided=undecided,
            told=change_of(best[1].ratio),
            verdict=best[1].verdict,
            bands=[
                band_of(f"{row.label.split(',')[0]}: {b.label}", one, b.pk)
                for row, one in zip(rows, ratios, strict=True)
            ],
            heads=["phase", a.label, b.label, f"{b.label}, as speed", "verdict"],
            lines=[
                [
                    metric_of_row(row),
                    *(f"{figure(row.cells[str(one.pk)].centre)} {row.unit}" for one in (a, b)),
                    f"{change_of(ratio.ratio)} ({changes_of(ratio.low, ratio.high)})",
                    ratio.verdict,
                ]
                for row, ratio in zip(rows, ratios, strict=True)
            ],
        ),
    )


def _families(found: Gathered) -> list[_Sizes]:
    """Rows of tests of one workload that differ in one numeric setting alone."""
    families = []
    by_metric: dict[tuple[int, str], list[RowShape]] = {}
    for row in found.rows:
        if compares(row) and not row.kind:
            by_metric.setdefault((found.tests[row.test].workload_id, row.metric), []).append(row)
    for rows in by_metric.values():
        if len(rows) < 2:
            continue
        settings = [found.tests[row.test].settings for row in rows]
        for key in dict.fromkeys(name for one in settings for name in one):
            groups: dict[str, dict[float, RowShape]] = {}
            for row, own in zip(rows, settings, strict=True):
                value = own.get(key)
                if isinstance(value, bool) or not isinstance(value, int | float) or value <= 0:
                    continue
                rest = repr(sorted((name, one) for name, one in own.items() if name != key))
                groups.setdefault(rest, {})[float(value)] = row
            for group in groups.values():
                if len(group) > 1:
                    label, unit = _spec(found, next(iter(group.values())), key)
                    families.append(_Sizes(label, unit, dict(sorted(group.items()))))
    return families


def _spec(found: Gathered, row: RowShape, key: str) -> tuple[str, str]:
    spec: Mapping[str, object] = next((one for one in found.tests[row.test].workload.settings if one["key"] == key), {})
    return str(spec.get("label", key)), str(spec.get("unit", ""))


def _of(
    kind: Kind,
    found: Gathered,
    sizes: _Sizes,
    a: Column,
    b: Column,
    measured: Mapping[float, RowShape],
    result: CrossoverResult,
    at: int,
) -> Ranked:
    rows = list(measured.values())
    first = rows[0]
    crossing = result.crossings[0]
    above = b if crossing.ahead_above == "b" else a
    ends = (result.sizes[0], result.sizes[-1])
    beyond = crossing.low is None or crossing.high is None or crossing.low < ends[0] or crossing.high > ends[1]
    workload = found.tests[first.test].workload
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{first.test}-{first.metric}-{a.pk}-{b.pk}",
            sentence=note(
                "finding_crossover",
                workload=workload.name,
                metric=metric_of_row(first),
                above=above.label,
                below=(a if above is b else b).label,
                setting=sizes.setting,
                unit=sizes.unit,
                size=crossing.size,
                low=crossing.low,
                high=crossing.high,
                more=len(result.crossings) - 1,
            ),
            use=Use.FACTOR,
            columns=[a.pk, b.pk],
            about=rows,
            size=(max(result.log_ratio) - min(result.log_ratio)) / math.log1p(found.review.margin),
            order=at,
            undecided=crossing.low is None,
            told=f"{figure(crossing.size)} {sizes.unit}".strip(),
            verdict=f"{above.label} ahead above",
            cells=[CellRef(row.test, pk, row.metric) for row in rows for pk in (a.pk, b.pk)],
            left_out=["an end of the crossing's interval lies beyond the sizes that were measured"] if beyond else [],
            curves=_curves(found, sizes, a, b, result),
            heads=[f"{sizes.setting} {sizes.unit}".strip(), a.label, b.label, f"{b.label} against {a.label}"],
            lines=[
                [
                    figure(size),
                    *(f"{figure(row.cells[str(one.pk)].centre)} {row.unit}".strip() for one in (a, b)),
                    f"{change_of(math.exp(d))}: {'ahead' if d > 0 else 'behind' if d < 0 else 'equal'}",
                ]
                for (size, row), d in zip(measured.items(), result.log_ratio, strict=True)
            ],
        ),
    )


def _curves(found: Gathered, sizes: _Sizes, a: Column, b: Column, result: CrossoverResult) -> CurvesShape:
    points = [
        CurvePoint(
            size, 100 * math.exp(d), None, None,
            f"{sizes.setting} {figure(size)} {sizes.unit}".strip() + f": {b.label} {change_of(math.exp(d))}",
        )
        for size, d in zip(result.sizes, result.log_ratio, strict=True)
    ]  # fmt: skip
    margin = found.review.margin
    return CurvesShape(
        FindingAxis(sizes.setting, sizes.unit, log=True),
        FindingAxis(f"{b.label} against {a.label}", "%", log=True),
        [FindingCurve(b.label, b.pk, points)],
        [
            FindingRule("x", one.size, f"crosses at {figure(one.size)} {sizes.unit}".strip(), one.low, one.high)
            for one in result.crossings
        ],
        [100 / (1 + margin), 100 * (1 + margin)],
        f"Above 100 % {b.label} is ahead, under it {a.label}. Both axes are of equal ratios; shaded: the margin.",
    )


KIND = Kind("crossover", "crossover", "10", make, ("without",))
