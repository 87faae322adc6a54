"""The matrix of a review: every test on every configuration, for the lenses Progress, Figures and Versus."""

import math
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from nomothet.core import compare, passes
from nomothet.core.errors import BadSample
from nomothet.core.passes import Flags
from nomothet.formats.words import LOW_DEFINITIONS, Metric
from nomothet.server.matrix.figures import Evidence, Values, gather
from nomothet.server.matrix.progress import CellKey, ProgressCell, Totals, progress
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.passes.typed import gaps_of
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import LOWS, metric_of, resolve

Gaps = Mapping[tuple[int, str], Mapping[int, str]]


@dataclass(frozen=True)
class TailShape:
    """The lows beside an average, by the review's definition. A thin one takes part in no verdict."""

    low_1pct: float | None
    low_1pct_thin: bool
    low_01pct: float | None
    low_01pct_thin: bool


@dataclass(frozen=True)
class ComparisonShape:
    """A cell against the baseline. Percentages are signed so that more is better; `value_pct` is the plain change."""

    effect_pct: float
    low_pct: float | None
    high_pct: float | None
    value_pct: float | None
    verdict: str
    passes_needed: int | None
    n: int
    n_baseline: int


@dataclass(frozen=True)
class CellShape:
    """One metric in one cell. `half_pct` is half of the 95 % interval as a share of the centre, in %."""

    n: int
    centre: float
    low: float | None
    high: float | None
    spread_pct: float | None
    half_pct: float | None
    thin: bool
    tail: TailShape | None
    comparison: ComparisonShape | None
    why_not: str | None
    # Largest half-width of its readings, and how they were come by, where they were not captured.
    half_width: float | None
    methods: list[str]


@dataclass(frozen=True)
class NoiseShape:
    source: str
    spread: float | None
    df: int


@dataclass(frozen=True)
class ApartShape:
    """A reading that takes part in nothing: about, over, under, or remembered."""

    number: int
    value: float
    bound: str
    method: str


@dataclass(frozen=True)
class ReadingMethodShape:
    method: str
    half_width: float | None


@dataclass(frozen=True)
class RowShape:
    """A test and one of its metrics over all columns; cells by column id."""

    key: str
    test: int
    metric: str
    label: str
    unit: str
    direction: str
    scale: str
    noise: NoiseShape
    cells: dict[str, CellShape]
    # Readings shown apart, and why a cell has no value; both by column id.
    apart: dict[str, list[ApartShape]]
    gaps: dict[str, str]
    # How typed readings of this row are come by; None until somebody has said.
    reading: ReadingMethodShape | None


@dataclass(frozen=True)
class ProgressRow:
    test: int
    cells: dict[str, ProgressCell]
    uneven: bool


@dataclass(frozen=True)
class MatrixShape:
    review: int
    baseline: int | None
    margin_pct: float
    low_definition: str
    low_words: str
    level_pct: float
    progress: list[ProgressRow]
    rows: list[RowShape]
    totals: Totals


def matrix(review: Review, baseline: int | None = None) -> MatrixShape:
    """Everything that the lenses show.

    Parameters
    ----------
    baseline : int, optional
        Column to compare with; the review's own baseline without it.
    """
    columns = list(review.columns.all())
    tests = list(review.tests.select_related("workload"))
    chosen = _baseline([column.pk for column in columns], baseline, [c.pk for c in columns if c.is_baseline])
    evidence = gather(review, tests)
    flagged, notes = _conspicuous(review, tests, evidence)
    cells, totals = progress(review, evidence, flagged, notes)
    gaps = gaps_of(review)
    rows = [_row(review, test, metric, evidence, chosen, gaps) for test in tests for metric in test.shown]
    compared = max(1, len(columns) - 1)
    return MatrixShape(
        review=review.pk,
        baseline=chosen,
        margin_pct=100 * review.margin,
        low_definition=review.low_definition,
        low_words=LOW_DEFINITIONS[review.low_definition],  # type: ignore[index]
        level_pct=100 * (1 - compare.sidak_level(compared)),
        progress=_progress_rows(tests, cells),
        rows=rows,
        totals=totals,
    )


def _baseline(columns: list[int], asked: int | None, marked: list[int]) -> int | None:
    if asked is not None:
        if asked not in columns:
            raise unusable("The baseline asked for is not a configuration of this review.")
        return asked
    return next(iter([*marked, *columns]), None)


def _progress_rows(tests: list[Test], cells: Mapping[CellKey, ProgressCell]) -> list[ProgressRow]:
    rows: dict[int, dict[str, ProgressCell]] = defaultdict(dict)
    for (test, column), cell in cells.items():
        rows[test][str(column)] = cell
    return [ProgressRow(test.pk, rows[test.pk], _uneven(rows[test.pk])) for test in tests]


def _uneven(cells: Mapping[str, ProgressCell]) -> bool:
    kept = {sum(pip.state in ("kept", "flagged") for pip in cell.pips) for cell in cells.values()}
    return len(kept - {0}) > 1


def _conspicuous(
    review: Review, tests: list[Test], evidence: Evidence
) -> tuple[dict[CellKey, dict[int, str]], dict[CellKey, list[str]]]:
    """Flags on the leading metric of each test: per pass, and per cell."""
    flagged: dict[CellKey, dict[int, str]] = {}
    notes: dict[CellKey, list[str]] = defaultdict(list)
    for test in tests:
        if not test.shown:
            continue
        metric = metric_of(test, test.shown[0], review.low_definition)
        for column, values in evidence.values.get((test.pk, metric.key), {}).items():
            found = passes.flags(values.numbers, metric.scale)
            flagged[test.pk, column] = _odd_words(values, found, metric)
            notes[test.pk, column] = [*flagged[test.pk, column].values(), *_cell_notes(found, metric)]
    return flagged, notes


def _odd_words(values: Values, found: Flags, metric: Metric) -> dict[int, str]:
    words = {}
    middle = sorted(values.numbers)[len(values.numbers) // 2]
    for at in found.odd:
        if metric.scale == "ratio":
            away = f"{abs(100 * (values.numbers[at] / middle - 1)):.1f} %"
        else:
            away = f"{abs(values.numbers[at] - middle):.3g} {metric.unit}"
        side = "over" if values.numbers[at] > middle else "under"
        cold = "cold first pass, " if found.cold_first else "odd pass, "
        words[values.passes[at]] = f"{cold}{away} {side} the middle one"
    return words


def _cell_notes(found: Flags, metric: Metric) -> list[str]:
    if found.drift is None:
        return []
    unit = "%" if metric.scale == "ratio" else metric.unit
    return [f"drifts by {found.drift.per_pass:+.2g} {unit} a pass"]


def _row(review: Review, test: Test, shown: str, evidence: Evidence, baseline: int | None, gaps: Gaps) -> RowShape:
    metric = metric_of(test, shown, review.low_definition)
    by_column = evidence.values.get((test.pk, metric.key), {})
    firm = {str(column): v.numbers for column, v in by_column.items() if not any(v.thin)}
    noise = compare.pooled_noise(list(firm.values()), metric.scale)
    borrowed = None
    if noise.source == "unknown" and firm:
        key = (test.workload_id, metric.key)
        borrowed = borrowed_noises([(*key, metric.scale)], review).get(key)
    compared: dict[str, compare.Comparison] = {}
    if str(baseline) in firm:
        compared = compare.compare_with_baseline(
            firm,
            str(baseline),
            direction=metric.direction,
            scale=metric.scale,
            margin=review.margin,
            borrowed=borrowed,
            spreads={
                str(column): compare.reading_error(v.numbers, v.spreads, metric.scale)
                for column, v in by_column.items()
                if any(v.spreads)
            },
        )
        noise = next((c.noise for c in compared.values()), noise)
    cells = {
        str(column): _cell(
            test, column, values, metric, evidence, review, compared.get(str(column)), baseline, str(baseline) in firm
        )
        for column, values in by_column.items()
    }
    spread = None if math.isnan(noise.sd) else (100 * noise.sd if metric.scale == "ratio" else noise.sd)
    return RowShape(
        key=f"{test.pk}:{shown}",
        test=test.pk,
        metric=shown,
        label=metric.label,
        unit=metric.unit,
        direction=metric.direction,
        scale=metric.scale,
        noise=NoiseShape(noise.source, spread, noise.df),
        cells=cells,
        apart={
            str(column): [ApartShape(one.number, one.value, one.bound, one.method) for one in found]
            for column, found in evidence.apart.get((test.pk, metric.key), {}).items()
        },
        gaps={str(column): reason for column, reason in gaps.get((test.pk, shown), {}).items()},
        reading=ReadingMethodShape(**test.readings[shown]) if shown in test.readings else None,
    )


def _cell(
    test: Test,
    column: int,
    values: Values,
    metric: Metric,
    evidence: Evidence,
    review: Review,
    comparison: compare.Comparison | None,
    baseline: int | None,
    baseline_usable: bool,
) -> CellShape:
    centre = passes.summary(values.numbers, metric.scale)
    ratio = metric.scale == "ratio"
    half = None
    if ratio and centre.high is not None:
        half = 100 * (centre.high / centre.centre - 1)
    spread = None if centre.spread is None else (100 * centre.spread if ratio else centre.spread)
    return CellShape(
        n=centre.n,
        centre=centre.centre,
        low=centre.low,
        high=centre.high,
        spread_pct=spread,
        half_pct=half,
        thin=any(values.thin),
        tail=_tail(test.pk, column, evidence, review) if metric.key == "average_fps" else None,
        comparison=_comparison_shape(comparison) if comparison else None,
        why_not=None if comparison or column == baseline else _why_not(values, baseline_usable),
        half_width=max(values.spreads, default=0.0) * math.sqrt(12) / 2 or None,
        methods=sorted(set(values.methods) - {"captured", "read from output"}),
    )


def _why_not(values: Values, baseline_usable: bool) -> str:
    if any(values.thin):
        return "thin tail: the runs are too short for this low"
    return "no comparison" if baseline_usable else "the baseline has no usable pass"


def _tail(test: int, column: int, evidence: Evidence, review: Review) -> TailShape:
    found: dict[str, tuple[float | None, bool]] = {}
    for low in LOWS:
        values = evidence.values.get((test, resolve(low, review.low_definition)), {}).get(column)
        try:
            found[low] = (passes.centre(values.numbers), any(values.thin)) if values else (None, False)
        except BadSample:
            found[low] = (None, False)
    return TailShape(*found["low_1pct"], *found["low_01pct"])


def _comparison_shape(comparison: compare.Comparison) -> ComparisonShape:
    ratio = comparison.value_ratio is not None

    def shown(value: float | None) -> float | None:
        return value if value is None or not ratio else 100 * (value - 1)

    return ComparisonShape(
        effect_pct=shown(comparison.effect) or 0.0,
        low_pct=shown(comparison.low),
        high_pct=shown(comparison.high),
        value_pct=None if comparison.value_ratio is None else 100 * (comparison.value_ratio - 1),
        verdict=comparison.verdict,
        passes_needed=comparison.passes_needed,
        n=comparison.n,
        n_baseline=comparison.n_baseline,
    )
