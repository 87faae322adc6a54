"""The rows of the matrix: a test's metric over all configurations, with its comparisons."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from nomothet.core import compare, derived, passes
from nomothet.core.errors import BadSample
from nomothet.formats.words import Metric
from nomothet.server.matrix.figures import Evidence, Values
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import LOWS, metric_of, resolve

_NO_BASELINE = "the baseline has no usable pass"
Gaps = Mapping[tuple[int, str], Mapping[int, str]]


@dataclass(frozen=True)
class TailShape:
    """The lows beside an average, by the review's definition. A thin one takes part in no verdict."""

    low_1pct: float | None
    low_1pct_thin: bool
    low_01pct: float | None
    low_01pct_thin: bool
    # 1 % low over average, and whether the review's target rate is met (section 19); empty without a target.
    evenness: float | None
    target: str


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
    # Why the metric is not trusted for this workload; then it is in no verdict. Empty where it is.
    untrusted: str


def row_of(
    review: Review, test: Test, shown: str, evidence: Evidence, baseline: int | None, gaps: Gaps, untrusted: str
) -> RowShape:
    """One metric of a test over all columns, compared with the baseline."""
    metric = metric_of(test, shown, review.low_definition)
    by_column = evidence.values.get((test.pk, metric.key), {})
    firm = {str(column): v.numbers for column, v in by_column.items() if not any(v.thin)}
    noise = compare.pooled_noise(list(firm.values()), metric.scale)
    borrowed = None
    if noise.source == "unknown" and firm:
        key = (test.workload_id, metric.key)
        borrowed = borrowed_noises([(*key, metric.scale)], review).get(key)
    compared: dict[str, compare.Comparison] = {}
    if str(baseline) in firm and not untrusted:
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
            test,
            column,
            values,
            metric,
            evidence,
            review,
            compared.get(str(column)),
            baseline,
            f"not trusted: {untrusted}" if untrusted else "" if str(baseline) in firm else _NO_BASELINE,
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
        untrusted=untrusted,
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
    why_none: str,
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
        tail=_tail(test.pk, column, evidence, review, centre) if metric.key == "average_fps" else None,
        comparison=_comparison_shape(comparison) if comparison else None,
        why_not=None if comparison or column == baseline else _why_not(values, why_none),
        half_width=max(values.spreads, default=0.0) * math.sqrt(12) / 2 or None,
        methods=sorted(set(values.methods) - {"captured", "read from output"}),
    )


def _why_not(values: Values, why_none: str) -> str:
    if any(values.thin):
        return "thin tail: the runs are too short for this low"
    return why_none or "no comparison"


def _tail(test: int, column: int, evidence: Evidence, review: Review, average: passes.Summary) -> TailShape:
    found: dict[str, tuple[float | None, bool]] = {}
    for low in LOWS:
        values = evidence.values.get((test, resolve(low, review.low_definition)), {}).get(column)
        try:
            found[low] = (passes.centre(values.numbers), any(values.thin)) if values else (None, False)
        except BadSample:
            found[low] = (None, False)
    one_percent, thin = found["low_1pct"]
    values = evidence.values.get((test, resolve("low_1pct", review.low_definition)), {}).get(column)
    firm = None if thin else one_percent
    even = None if firm is None else derived.evenness(firm, average.centre)
    target = ""
    if review.target_fps is not None:
        bounded = passes.summary(values.numbers) if values is not None and firm is not None else None
        target = derived.target_test(review.target_fps, _centre(average), _centre(bounded) if bounded else None)
    return TailShape(*found["low_1pct"], *found["low_01pct"], even, target)


def _centre(summary: passes.Summary) -> derived.Centre:
    return derived.Centre(summary.centre, summary.low, summary.high)


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
