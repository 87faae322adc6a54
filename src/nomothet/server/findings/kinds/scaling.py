"""Scaling: how work grows with threads, channels or nodes (method 9)."""

from collections.abc import Sequence

from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.core.scaling import ScalingResult, scaling
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import compares, counts, metric_of_row, turn_of
from nomothet.server.findings.shapes import CurvePoint, CurvesShape, FindingAxis, FindingCurve
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.numbers import figure

# What work can scale with; a factor of these alone, counted in whole numbers.
_COUNTED = ("thread", "channel", "node", "core", "worker", "socket")
LEAST_SIZES = 3
_STEPS = 40


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test that was measured at 1 and at two more."""
    made = []
    for factor in found.review.factors:
        if len(factor["aspects"]) != 1 or not any(word in factor["aspects"][0] for word in _COUNTED):
            continue
        levels = found.levels_of(factor["key"])
        best: dict[int, tuple[RowShape, list[Column], ScalingResult]] = {}
        for row in found.rows:
            columns = [] if row.kind else _columns(found, row, factor["key"], levels)
            result = _scaled(found, row, columns, levels) if columns else None
            if result and (row.test not in best or result.speedup[-1] > best[row.test][2].speedup[-1]):
                # Of a suite, the score that is meant to grow.
                best[row.test] = (row, columns, result)
        made += [_of(kind, found, *one, factor["name"], at) for at, one in enumerate(best.values())]
    return made


def _scaled(
    found: Gathered, row: RowShape, columns: Sequence[Column], levels: dict[int, float | str]
) -> ScalingResult | None:
    try:
        return scaling({float(levels[one.pk]): found.numbers(row, one.pk) for one in columns}, turn_of(row))
    except BadSample:
        return None


def _columns(found: Gathered, row: RowShape, key: str, levels: dict[int, float | str]) -> list[Column]:
    """The columns that differ in the counted factor alone, by rising n; none where 1 is not among them."""
    base = found.baseline
    if base is None or not compares(row):
        return []
    others = [one.key for one in found.factors if one.key != key]
    own = found.factor_levels
    columns = [
        column
        for column in found.buildable
        if isinstance(levels.get(column.pk), float)
        and counts(row, column)
        and all(own[column.pk][one] == own[base.pk][one] for one in others)
    ]
    sizes = [levels[column.pk] for column in columns]
    if len(set(sizes)) < len(sizes) or len(sizes) < LEAST_SIZES or 1.0 not in sizes:
        return []
    return sorted(columns, key=lambda column: levels[column.pk])


def _of(
    kind: Kind,
    found: Gathered,
    row: RowShape,
    columns: Sequence[Column],
    result: ScalingResult,
    name: str,
    at: int,
) -> Ranked:
    clocks = found.samples[row.test].clocks_mhz
    last = columns[-1]
    base_clock, last_clock = (clocks.get(str(one.pk)) for one in (columns[0], last))
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{row.test}",
            sentence=note(
                "finding_scaling",
                test=found.names[row.test],
                name=name,
                n=result.n[-1],
                speedup=result.speedup[-1],
                efficiency=result.efficiency[-1],
                clock=None if not base_clock or not last_clock else last_clock / base_clock,
                peak=result.universal.peak if result.universal and not result.universal.extrapolated else None,
            ),
            use=Use.FACTOR,
            columns=[one.pk for one in columns],
            about=[row],
            size=1.0,
            order=at,
            undecided=row.noise.source == "unknown",
            told=f"{figure(result.speedup[-1])} ×",
            verdict="",
            margin=False,
            curves=_curves(result, columns, name),
            heads=[name, metric_of_row(row), "speed-up", "efficiency", "clock"],
            lines=[
                [
                    column.label,
                    f"{figure(row.cells[str(column.pk)].centre)} {row.unit}".strip(),
                    f"{figure(speedup)} ×",
                    f"{figure(100 * efficiency)} %",
                    f"{clock:.0f} MHz" if (clock := clocks.get(str(column.pk))) else "",
                ]
                for column, speedup, efficiency in zip(columns, result.speedup, result.efficiency, strict=True)
            ],
            left_out=_fits(result),
        ),
    )


def _fits(result: ScalingResult) -> list[str]:
    said = []
    if result.amdahl is not None:
        said.append(
            f"Amdahl's law: {figure(100 * result.amdahl.p)} % in parallel, residual {figure(result.amdahl.rss)}"
        )
    law = result.universal
    if law is not None:
        peak = "" if law.peak is None else f", turning down at {figure(law.peak)}"
        beyond = " (extrapolated)" if law.extrapolated else ""
        said.append(
            f"universal law: contention {figure(law.sigma)}, coherence {figure(law.kappa)}, "
            f"residual {figure(law.rss)}{peak}{beyond}"
        )
    return said


def _curves(result: ScalingResult, columns: Sequence[Column], name: str) -> CurvesShape:
    most = result.n[-1]
    sizes = [1 + (most - 1) * step / _STEPS for step in range(_STEPS + 1)]
    curves = [FindingCurve("ideal", 0, _computed(sizes, sizes), dotted=True, marks=False, faint=True)]
    if result.amdahl is not None:
        p = result.amdahl.p
        curves.append(
            FindingCurve("Amdahl's law", 0, _computed(sizes, [1 / ((1 - p) + p / n) for n in sizes]), dotted=True,
                         marks=False)
        )  # fmt: skip
    law = result.universal
    if law is not None:
        s = [n / (1 + law.sigma * (n - 1) + law.kappa * n * (n - 1)) for n in sizes]
        curves.append(FindingCurve("universal law", 0, _computed(sizes, s), dotted=True, marks=False, faint=True))
    measured = [
        CurvePoint(n, s, None, None, f"{column.label}: {figure(s)} ×, {figure(100 * s / n)} % of the ideal", column.pk)
        for n, s, column in zip(result.n, result.speedup, columns, strict=True)
    ]
    curves.append(FindingCurve("measured", 0, measured))
    return CurvesShape(
        FindingAxis(name, "", log=True),
        FindingAxis("speed-up over 1", "×", log=True),
        curves,
        [],
        [],
        "Both axes are of equal ratios. Rings: measured; broken lines: the ideal, and what the two laws fit.",
    )


def _computed(x: Sequence[float], y: Sequence[float]) -> list[CurvePoint]:
    return [CurvePoint(a, b, None, None, "") for a, b in zip(x, y, strict=True)]


KIND = Kind("scaling", "scaling", "9", make, ("without",))
